/** One word of the product, in a sentence. */
export interface Word {
  readonly word: string;
  readonly meaning: string;
  /** Title of the measure that counts it; '' where nothing is counted. */
  readonly measure: string;
}

/** How one figure is counted: a paragraph of docs/measures.md. */
export interface MeasureText {
  readonly title: string;
  /** As it stands in an address. */
  readonly slug: string;
  readonly text: string;
}

/** A title as it stands in an address: lower case, joined by hyphens. */
export function slugOf(title: string): string {
  return title
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '');
}

/** Words of the product as docs/words.md tells them; those of the code are left out. */
export function readWords(text: string): Word[] {
  const part = text.slice(text.indexOf('## Of the product'), text.indexOf('## Of the code'));
  return part
    .split('\n')
    .filter((line) => /^\| (?!word |---)/.test(line))
    .map((line) => ({
      word: cellOf(line, 0),
      meaning: cellOf(line, 1).replace(/[*`]/g, ''),
      measure: cellOf(line, 2),
    }));
}

const cellOf = (line: string, place: number): string => line.split('|')[place + 1]?.trim() ?? '';

/** Paragraphs of docs/measures.md by their titles. */
export function readMeasures(text: string): MeasureText[] {
  return text
    .split(/\n(?=\*\*)/)
    .map((paragraph) => /^\*\*([^*]+?)\.?\*\*\s*([\s\S]*)$/.exec(paragraph.trim()))
    .filter((found) => found !== null)
    .map(([, title, rest]) => ({ title: title!, slug: slugOf(title!), text: rest!.trim() }));
}
