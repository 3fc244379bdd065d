import {
  contentChange,
  heapContent,
  isFollowed,
  MOST_BANDS,
  type ContentChange,
  type LivePart,
  type Recording,
  type Span,
} from '@brisk-heron/core';
import type { Evidence, Look } from './evidence.ts';
import { keyWords, type KeyWords } from './key-words.ts';

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
  readonly rows: readonly (LivePart & KeyWords)[];
  readonly keyCount: number;
  /** By the stretch of time of birth, the oldest first. */
  readonly bands: readonly (LivePart & { readonly born: Span })[];
  readonly band: { readonly born: Span; readonly number: number } | null;
  /** Against another instant: what changed from the earlier to the later, or null. */
  readonly against: {
    readonly fromMs: number;
    readonly toMs: number;
    readonly followed: boolean;
    readonly rows: readonly (ContentChange & KeyWords)[];
  } | null;
}

const MOST_ROWS = 60;

export function momentOf(evidence: Evidence, { look, tMs, band, againstMs }: MomentAsk): MomentAnswer {
  const { recording, index } = evidence;
  const chosen = evidence.chosen(look.find);
  const content = heapContent(index, tMs, look.charge, { chosen, band });
  const words = <T extends { readonly key: number }>(parts: readonly T[]): (T & KeyWords)[] =>
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
    };
  }
}

/** Time of birth of a band's objects. */
export function bandSpan(recording: Pick<Recording, 'durationMs'>, band: number): Span {
  const lengthMs = recording.durationMs / MOST_BANDS;
  return { fromMs: band * lengthMs, toMs: (band + 1) * lengthMs };
}
