import { z } from 'zod';
import { NONE } from '../base/ids.ts';
import { frameText, type FrameText, pathFrames } from '../model/call-path.ts';
import { type Charge, chargeGroups, isFrameCharge } from '../model/charge.ts';
import { isOwnFile } from '../model/own-frame.ts';
import { packageName } from '../model/package-name.ts';
import type { Recording, SourceExcerpt } from '../model/recording.ts';
import type { Look, Subject } from '../study/subject.ts';
import { keyOfText } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';
import { chargeRow, type ChargeRow } from './sites.ts';

/** One step of a shown call path: a frame, or a run of frames that are not the engineer's, folded. */
export type PathStep =
  | { readonly kind: 'frame'; readonly frame: FrameText; readonly isOwn: boolean; readonly isSite: boolean }
  | { readonly kind: 'folded'; readonly count: number; readonly through: string };

/** All that the drawer shows of a charge key. */
export interface KeyDetail {
  readonly charge: Charge;
  readonly row: ChargeRow;
  /**
   * The frame of the key, or, for types, threads and the like, the allocating frame of its heaviest path; null when
   * unknown.
   */
  readonly frame: FrameText | null;
  /** Call paths on which it was allocated, in the whole recording. */
  readonly paths: number;
  /** The path that keeps most, or allocates most. */
  readonly path: readonly PathStep[];
  /** Lines around the frame's function, when the recorder told them. */
  readonly source: SourceExcerpt | null;
  readonly settleMs: number;
  /** What a frame's line is: where its function begins (V8), or the line that allocates. */
  readonly lineMeans: 'function' | 'allocation';
}

/** The figures of one key under a charge; null when it has none in the span. */
export function keyDetailOf(subject: Subject, look: Look, charge: Charge, text: string): KeyDetail | null {
  const { recording } = subject;
  const key = keyOfText(subject, charge, text);
  if (key === undefined) return null;
  const table = subject.table(look, charge);
  const figures = table.rows.find((row) => row.key === key);
  if (figures === undefined) return null;
  const frame = isFrameCharge(charge) ? frameOf(recording, key) : allocatingFrame(recording, figures.heaviestPathId);
  return {
    charge,
    row: chargeRow(recording, charge, figures),
    frame,
    paths: pathCount(recording, charge, key),
    path: foldPath(pathFrames(recording, figures.heaviestPathId), frame, recording.ownRules),
    source: frame === null ? null : (recording.excerpts.get(`${frame.file}:${frame.line}`) ?? null),
    settleMs: table.settleMs,
    lineMeans: recording.traits.lineMeans,
  };
}

function pathCount(recording: Recording, charge: Charge, key: number): number {
  const { groupOf, keys } = chargeGroups(recording, charge);
  const group = keys.indexOf(key);
  const { pathId } = recording.tables.origins.col;
  const paths = new Set<number>();
  for (let originId = 0; originId < groupOf.length; originId++)
    if (groupOf[originId] === group && pathId[originId] !== NONE) paths.add(pathId[originId]!);
  return paths.size;
}

function frameOf(recording: Recording, frameId: number): FrameText | null {
  return frameId === NONE ? null : frameText(recording, frameId);
}

function allocatingFrame(recording: Recording, pathId: number): FrameText | null {
  return pathId === NONE ? null : frameText(recording, recording.tables.paths.col.frameId[pathId]!);
}

/** Folds runs of frames that are not the engineer's own into one step each. */
export function foldPath(
  frames: readonly FrameText[],
  site: FrameText | null,
  ownRules: readonly string[] = [],
): PathStep[] {
  const steps: PathStep[] = [];
  for (const frame of frames) {
    const isOwn = isOwnFile(frame.file, ownRules);
    const isSite =
      site !== null && frame.functionName === site.functionName && frame.file === site.file && frame.line === site.line;
    const last = steps[steps.length - 1];
    if (isOwn || isSite) steps.push({ kind: 'frame', frame, isOwn, isSite });
    else if (last?.kind === 'folded') steps[steps.length - 1] = { ...last, count: last.count + 1 };
    else steps.push({ kind: 'folded', count: 1, through: packageName(frame.file) });
  }
  return steps;
}

/** All that is known of one key. */
export const key = measure({
  name: 'key',
  title: 'all that is known of one key: figures, heaviest call path, source',
  needs: 'objects',
  ask: z.strictObject({ ...LOOK_ASK, key: z.string().describe("the key's own words, as tables give them") }),
  answer: (side, ask): KeyDetail | null => keyDetailOf(side.found(ask), side.look(ask), ask.charge, ask.key),
});
