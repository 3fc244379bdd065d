import { NONE, type StringId } from './ids.ts';

/** Strings kept once, numbered from 0 in order of first sight. */
export class StringTable {
  private readonly texts: string[] = [];
  private readonly ids = new Map<string, number>();

  /** Number of distinct strings. */
  get length(): number {
    return this.texts.length;
  }

  /**
   * Id of the text, adding it when new. A new text is copied, so that it does not keep the file chunk it was sliced
   * from alive.
   */
  intern(text: string): StringId {
    const known = this.ids.get(text);
    if (known !== undefined) return known as StringId;
    const owned = ownCopy(text);
    this.ids.set(owned, this.texts.length);
    return (this.texts.push(owned) - 1) as StringId;
  }

  /** Id of a text that is there; NONE for any other. */
  find(text: string): number {
    return this.ids.get(text) ?? NONE;
  }

  /** Text of an id; the empty string for NONE or an unknown id. */
  text(id: number): string {
    return this.texts[id] ?? '';
  }
}

// Engines represent a slice as a view on its parent; a round trip through JSON makes a string of its own.
function ownCopy(text: string): string {
  return JSON.parse(JSON.stringify(text)) as string;
}
