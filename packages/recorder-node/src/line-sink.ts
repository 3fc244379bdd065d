import type { StreamLine } from '@brisk-heron/core';

type Distribute<T> = T extends { h: string } ? Omit<T, 'h'> : never;
/** A line without its heap, which the sink adds. */
export type OwnLine = Distribute<StreamLine>;

/** Takes lines of one heap. Adding never throws and never waits. */
export interface LineSink {
  add(line: OwnLine): void;
  /** Writes what waits, as far as the disk takes it. */
  flush(): unknown;
}
