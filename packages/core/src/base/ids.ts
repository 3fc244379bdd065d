/** The id that stands for "there is none" in every u32 column. */
export const NONE = 0xffffffff;

declare const brand: unique symbol;
type Id<B extends string> = number & { readonly [brand]: B };

/** Row of the string table. */
export type StringId = Id<'string'>;
/** Row of the frame table. */
export type FrameId = Id<'frame'>;
/** Row of the call-path table. */
export type PathId = Id<'path'>;
/** Row of the table of origins. */
export type OriginId = Id<'origin'>;
/** Row of the heap table. */
export type HeapId = Id<'heap'>;
