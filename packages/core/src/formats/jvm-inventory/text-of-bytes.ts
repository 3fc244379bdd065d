const PRINTABLE = /^[\t\n\r\x20-\x7e\xa0-\ud7ff\ue000-\uffff]*$/;

/** Numbers may look like letters of two bytes: one in so many high bytes is 0 in what is believed to be a text. */
const LEAST_ZEROS = 4;

/**
 * The text that an array's bytes may be: a byte a letter, or two with the high or the low one first, as JVMs keep them;
 * '' for what is none. `isCut` where more follows.
 */
export function textOfBytes(bytes: Uint8Array, isCut: boolean): string {
  // Of two bytes, the high one is 0 in most texts.
  const zerosAt = (place: 0 | 1): number =>
    bytes.reduce((sum, byte, at) => sum + Number(byte === 0 && at % 2 === place), 0);
  const [first, second] = [zerosAt(0), zerosAt(1)];
  const isPairs = Math.max(first, second) * LEAST_ZEROS >= bytes.length / 2;
  for (const decoded of [letters(bytes), isPairs ? pairs(bytes, first > second) : ''])
    if (decoded !== '' && PRINTABLE.test(decoded)) return isCut ? `${decoded}…` : decoded;
  return '';
}

function letters(bytes: Uint8Array): string {
  return String.fromCharCode(...bytes);
}

function pairs(bytes: Uint8Array, highFirst: boolean): string {
  let text = '';
  for (let at = 0; at + 2 <= bytes.length; at += 2)
    text += String.fromCharCode(bytes[at + Number(highFirst)]! + 256 * bytes[at + Number(!highFirst)]!);
  return text;
}
