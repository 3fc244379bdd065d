/** Tags of roots that tell of a thread: a frame of it, by its number, and the thread that has this number. */
export const RootTag = { frame: 0x03, thread: 0x08 } as const;

/** Roots by the format's tags: what they are called, and how many bytes follow the object's id. */
export const ROOTS: ReadonlyMap<number, readonly [words: string, more: number, moreIds: number]> = new Map([
  [0xff, ['unknown', 0, 0]],
  [0x01, ['JNI global reference', 0, 1]],
  [0x02, ['JNI local reference', 8, 0]],
  [0x03, ['stack of a thread', 8, 0]],
  [0x04, ['native stack of a thread', 4, 0]],
  [0x05, ['class of the runtime', 0, 0]],
  [0x06, ['thread', 4, 0]],
  [0x07, ['monitor that is held', 0, 0]],
  [0x08, ['thread', 8, 0]],
]);
