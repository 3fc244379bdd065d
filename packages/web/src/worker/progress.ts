import type { SoFar } from './read-so-far.ts';

/** How far a long piece of work is; `totalBytes` is NaN when nobody knows. */
export interface Progress {
  readonly doing: string;
  readonly doneBytes: number;
  readonly totalBytes: number;
  /** Share that is done, where it is not told by bytes; such work runs beside what the page shows. */
  readonly doneRatio?: number;
  /** What was read so far, where a recording is read and there is something to draw. */
  readonly soFar?: SoFar | null;
}
