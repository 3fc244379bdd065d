/** Takes a line of a gauge apart: `name;minute;level;unit;state`. */
export function parseReading(line) {
  const fields = line.split(';').map((text, place) => ({ place, text: text.trim(), length: text.length }));
  const named = {};
  for (const field of fields) named[`field${field.place}`] = { ...field };
  return { gauge: named.field0.text, minute: Number(named.field1.text), level: Number(named.field2.text), fields };
}

/** The same without an object for every field. */
export function parseReadingLean(line) {
  const first = line.indexOf(';');
  const second = line.indexOf(';', first + 1);
  const third = line.indexOf(';', second + 1);
  return { gauge: line.slice(0, first), minute: Number(line.slice(first + 1, second)), level: Number(line.slice(second + 1, third)) };
}
