const OPEN = 91;
const COLON = 58;
const BLANK = 32;

/**
 * Offset behind the decorations of a line that stands in [from, to) of a text; `from` when it has none, −1 when a
 * bracket is never closed.
 */
export function messageStart(text: string, from: number, to: number): number {
  let at = from;
  while (text.charCodeAt(at) === OPEN) {
    const close = text.indexOf(']', at);
    if (close < 0 || close >= to) return -1;
    at = close + 1;
  }
  return at > from && text.charCodeAt(at) === BLANK ? at + 1 : at;
}

/**
 * True when the message at `at` may be one that is read: most of a detailed log is not, and is told by its first
 * letters.
 */
export function mayTell(text: string, at: number): boolean {
  if (text.charCodeAt(at) === 71 && text.startsWith('GC(', at)) return eventMayTell(text, afterId(text, at));
  switch (text.charCodeAt(at)) {
    case 65:
      return text.startsWith('Allocation Stall (', at); // A
    case 82:
      return text.startsWith('Relocation Stall (', at); // R
    case 83:
      return text.startsWith('Safepoint "', at); // S
    case 84:
      return text.startsWith('Total time for which', at); // T
    case 72:
      return text.startsWith('Heap', at); // H
    case 77:
      return text.startsWith('Max Capacity: ', at); // M
    case 79:
      return text.startsWith('Out Of Memory (', at); // O
    case 85:
      return text.startsWith('Using ', at); // U
    case 86:
      return text.startsWith('Version: ', at); // V
    case BLANK:
      return isPacingRow(text, at);
    default:
      return false;
  }
}

/** True when what the message of an event tells needs no stamp: sizes, ages, processor times. */
export function isDetail(text: string, at: number): boolean {
  if (!text.startsWith('GC(', at)) return false;
  const textAt = afterId(text, at);
  switch (text.charCodeAt(textAt)) {
    case 85:
    case 45:
    case 84:
    case 69:
    case 83:
    case 65:
    case 72:
    case 68:
    case BLANK:
      return true; // U - T E S A H D
    case 79:
    case 89:
    case 121:
      return text.charCodeAt(textAt + 1) !== COLON || text.charCodeAt(textAt + 3) === BLANK; // O Y y
    case 77:
      return text.startsWith('Metaspace', textAt); // M
    case 80:
      return !text.startsWith('Pause ', textAt); // PSYoungGen, ParOldGen
    default:
      return false;
  }
}

// "      93 of   358 ms ( 26.0%): load-0".
function isPacingRow(text: string, at: number): boolean {
  let from = at;
  while (text.charCodeAt(from) === BLANK) from++;
  const digits = from;
  for (let code = text.charCodeAt(from); code >= 48 && code <= 57;) code = text.charCodeAt(++from);
  return from > digits && text.startsWith(' of ', from);
}

// Behind "GC(12) ".
function afterId(text: string, at: number): number {
  let end = at + 3;
  for (let code = text.charCodeAt(end); code >= 48 && code <= 57;) code = text.charCodeAt(++end);
  return end + 2;
}

function eventMayTell(text: string, at: number): boolean {
  switch (text.charCodeAt(at)) {
    case 80:
      return text.startsWith('Pause ', at) || text.startsWith('PSYoungGen: ', at) || text.startsWith('ParOldGen: ', at); // P
    case 67:
      return isCycleStep(text, at); // C
    case 71:
      return text.startsWith('Garbage Collection (', at); // G
    case 89:
    case 121:
      return text.charCodeAt(at + 1) === COLON && eventMayTell(text, at + 3); // Y y
    case 79:
      return text.charCodeAt(at + 1) === COLON ? eventMayTell(text, at + 3) : text.startsWith('Old regions: ', at); // O
    case 77:
      return (
        text.startsWith('Metaspace: ', at) ||
        text.startsWith('Major Collection (', at) ||
        text.startsWith('Minor Collection (', at)
      ); // M
    case 85:
      return text.startsWith('User=', at); // U
    case 45:
      return text.startsWith('- age', at); // -
    case BLANK:
      return isTableRow(text, at);
    default:
      return isSpace(text, at);
  }
}

function isSpace(text: string, at: number): boolean {
  switch (text.charCodeAt(at)) {
    case 84:
      return text.startsWith('Tenured: ', at) || text.startsWith('To-space', at); // T
    case 69:
      return text.startsWith('Eden regions: ', at); // E
    case 83:
      return text.startsWith('Survivor regions: ', at); // S
    case 65:
      return text.startsWith('Archive regions: ', at) || text.startsWith('Allocated: ', at); // A
    case 72:
      return text.startsWith('Humongous regions: ', at); // H
    case 68:
      return text.startsWith('DefNew: ', at); // D
    default:
      return false;
  }
}

function isCycleStep(text: string, at: number): boolean {
  if (!text.startsWith('Concurrent ', at)) return false;
  const what = at + 11;
  return (
    text.startsWith('Mark Cycle', what) ||
    text.startsWith('Undo Cycle', what) ||
    text.startsWith('Cycle', what) ||
    text.startsWith('reset', what) ||
    text.startsWith('cleanup', what)
  );
}

// Rows of tables: "     Used: …", " Allocated: …", " - age …".
function isTableRow(text: string, at: number): boolean {
  let from = at;
  while (text.charCodeAt(from) === BLANK) from++;
  switch (text.charCodeAt(from)) {
    case 85:
      return text.startsWith('Used: ', from); // U
    case 76:
      return text.startsWith('Live: ', from); // L
    case 80:
      return text.startsWith('Promoted: ', from); // P
    case 65:
      return text.startsWith('Allocated: ', from); // A
    case 45:
      return text.startsWith('- age', from); // -
    default:
      return false;
  }
}

/**
 * Passes over lines of a text that tell nothing, before anything is cut out of it. Linear: where the next closing
 * bracket stands is remembered from line to line.
 */
export class QuietLines {
  private text = '';
  private nextClose = -1;

  /** True for a decorated line in [from, to) of a text that is surely not read. */
  has(text: string, from: number, to: number): boolean {
    if (text.charCodeAt(from) !== OPEN) return false;
    const at = messageStart(text, from, to);
    if (at < 0 || mayTell(text, at)) return false;
    if (text !== this.text) {
      this.text = text;
      this.nextClose = -1;
    }
    return !this.isGlued(at, to);
  }

  // Another line's decorations inside a line: "][", or "] GC(".
  private isGlued(at: number, to: number): boolean {
    let close = this.nextClose;
    // Most messages hold no bracket: the next one found is the next line's.
    for (let from = at; ; from = close + 1) {
      if (close < from) {
        const found = this.text.indexOf(']', from);
        close = found < 0 ? Infinity : found;
      }
      this.nextClose = close;
      if (close >= to) return false;
      if (this.text.charCodeAt(close + 1) === OPEN || this.text.startsWith(' GC(', close + 1)) return true;
    }
  }
}
