/** What an input is made of: it is the key under which a piece is kept, so it must tell everything by plain values. */
export type PieceInput = string | number | boolean | null | undefined | readonly PieceInput[] | PlainObject;
// eslint-disable-next-line no-restricted-syntax -- the members of inputs are named in the code
type PlainObject = { readonly [name: string]: PieceInput };

/**
 * Something that several measures of one subject share, worked out once. All that `make` may use is the subject and the
 * input, and the whole input is the key under which it is kept: a stale answer for a forgotten input cannot be.
 */
export interface Piece<S, I, T> {
  readonly name: string;
  /** Pieces of this kind that are kept at most; the oldest goes first. */
  readonly most: number;
  readonly make: (subject: S, input: I) => T;
}

/** Pieces of one kind that are kept: those of two looks from several views. */
const KEPT = 6;

/** Declares a piece; `most` is 1 for pieces as large as the events themselves. */
export function piece<S, I extends PieceInput, T>(
  name: string,
  make: (subject: S, input: I) => T,
  most = KEPT,
): Piece<S, I, T> {
  return { name, most, make };
}

/** The pieces kept of one subject. */
export class PieceStore {
  private readonly kept = new Map<unknown, Map<string, unknown>>();
  private stamp = '';

  /** Drops everything when the stamp, which says how far the subject has grown, is another. */
  renew(stamp: string): void {
    if (stamp !== this.stamp) this.kept.clear();
    this.stamp = stamp;
  }

  /** The piece for an input, made when it is not kept. */
  get<S, I extends PieceInput, T>(of: Piece<S, I, T>, subject: S, input: I): T {
    const key = JSON.stringify(input);
    let pieces = this.kept.get(of);
    if (pieces === undefined) this.kept.set(of, (pieces = new Map()));
    if (pieces.has(key)) return pieces.get(key) as T;
    const made = of.make(subject, input);
    pieces.set(key, made);
    const oldest = pieces.keys().next().value;
    if (pieces.size > of.most && oldest !== undefined) pieces.delete(oldest);
    return made;
  }
}
