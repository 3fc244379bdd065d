import { z } from 'zod';
import { contentChange, type ContentChange, heapContent, isFollowed, type LivePart } from '../analysis/heap-content.ts';
import { MOST_BANDS } from '../analysis/strata.ts';
import type { Span } from '../base/span.ts';
import type { Recording } from '../model/recording.ts';
import { Z_95 } from '../stats/z-95.ts';
import type { Look, Subject } from '../study/subject.ts';
import { KEY_COLUMNS, keyWords, type KeyWords } from './key-words.ts';
import { LOOK_ASK, measure } from './measure.ts';

/** What is asked of an instant. */
export interface MomentAsk {
  readonly look: Look;
  readonly tMs: number;
  /** Only what was born in this band. */
  readonly band: number | null;
  /** An instant to compare with. */
  readonly againstMs: number | null;
}

/** The heap's content at an instant. */
export interface MomentAnswer {
  readonly tMs: number;
  readonly followed: boolean;
  readonly total: LivePart;
  readonly rows: readonly (Omit<LivePart, 'key'> & KeyWords)[];
  readonly keyCount: number;
  /** By the stretch of time of birth, the oldest first. */
  readonly bands: readonly (LivePart & { readonly born: Span })[];
  readonly band: { readonly born: Span; readonly number: number } | null;
  /** Against another instant: what changed from the earlier to the later, or null. */
  readonly against: {
    readonly fromMs: number;
    readonly toMs: number;
    readonly followed: boolean;
    readonly rows: readonly (Omit<ContentChange, 'key'> & KeyWords)[];
    /** The same by the stretch of time of birth, the oldest first. */
    readonly bands: readonly (ContentChange & { readonly born: Span })[];
  } | null;
}

const MOST_ROWS = 60;

/** Answers `moment` of a subject that the look was found in. */
export function momentOf(subject: Subject, { look, tMs, band, againstMs }: MomentAsk): MomentAnswer {
  const { recording, index } = subject;
  const chosen = subject.chosen(look.find);
  const content = heapContent(index, tMs, look.charge, { chosen, band });
  const words = <T extends { readonly key: number }>(parts: readonly T[]): (Omit<T, 'key'> & KeyWords)[] =>
    parts.slice(0, MOST_ROWS).map((part) => ({ ...part, ...keyWords(recording, look.charge, part.key) }));
  return {
    tMs,
    followed: content.followed,
    total: content.total,
    rows: words(content.parts),
    keyCount: content.parts.length,
    bands: content.bands.map((part) => ({ ...part, born: bandSpan(recording, part.key) })),
    band: band === null ? null : { number: band, born: bandSpan(recording, band) },
    against: againstMs === null ? null : changes(),
  };

  function changes(): MomentAnswer['against'] {
    const [fromMs, toMs] = [Math.min(tMs, againstMs!), Math.max(tMs, againstMs!)];
    return {
      fromMs,
      toMs,
      followed: isFollowed(recording, againstMs!),
      rows: words(contentChange(index, fromMs, toMs, look.charge, chosen)),
      bands: contentChange(index, fromMs, toMs, 'band', chosen)
        .sort((a, b) => a.key - b.key)
        .map((part) => ({ ...part, born: bandSpan(recording, part.key) })),
    };
  }
}

/** Time of birth of a band's objects. */
function bandSpan(recording: Pick<Recording, 'durationMs'>, band: number): Span {
  const lengthMs = recording.durationMs / MOST_BANDS;
  return { fromMs: band * lengthMs, toMs: (band + 1) * lengthMs };
}

/** What lived at an instant, and what changed since another. */
export const moment = measure({
  name: 'moment',
  title: 'what lived at an instant, by key and by the time of its birth; and what changed since another',
  needs: 'objects',
  ask: z.strictObject({
    ...LOOK_ASK,
    tMs: z.number().min(0).nullable().default(null).describe('the instant, in ms; the end where none is given'),
    band: z.number().int().min(0).nullable().default(null).describe('only what was born in this band of time'),
    againstMs: z.number().min(0).nullable().default(null).describe('an instant to compare with, in ms'),
  }),
  answer: (side, { tMs, ...ask }): MomentAnswer =>
    momentOf(side.found(ask), { ...ask, look: side.look(ask), tMs: tMs ?? side.momentMs ?? side.recording.durationMs }),
  table: {
    rows: (answer: MomentAnswer) => answer.rows,
    columns: [
      ...KEY_COLUMNS,
      { head: 'live', unit: 'bytes', cell: (row: MomentAnswer['rows'][number]) => row.bytes },
      { head: 'live ±', unit: 'bytes', cell: (row: MomentAnswer['rows'][number]) => Z_95 * row.bytesSe },
      { head: 'objects', cell: (row: MomentAnswer['rows'][number]) => row.count },
    ],
  },
});
