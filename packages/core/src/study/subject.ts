import { chargeTable, type ChargeTable } from '../analysis/charge-table.ts';
import { workOf } from '../analysis/end-of-work.ts';
import { flowSums } from '../analysis/flow-sums.ts';
import { liveLevels, type LiveLevels } from '../analysis/live-levels.ts';
import { ObjectIndex } from '../analysis/object-index.ts';
import { settleTimeMs } from '../analysis/settle-time.ts';
import { type SpanFlow, spanFlows } from '../analysis/span-flows.ts';
import { spanSums, type SpanSums } from '../analysis/span-sums.ts';
import { withGrowthShares } from '../analysis/verdict/growth-shares.ts';
import { judge, type Verdict } from '../analysis/verdict/verdict.ts';
import { youngFill, type YoungFill } from '../analysis/young-fill.ts';
import type { Span } from '../base/span.ts';
import type { Charge, OriginChoice } from '../model/charge.ts';
import type { Recording } from '../model/recording.ts';
import { wholeSpan } from '../model/whole-span.ts';
import { asksForObjects, findObjects, type FoundObjects } from '../query/find-objects.ts';
import { findOrigins } from '../query/find-origins.ts';
import { piece, type Piece, type PieceInput, PieceStore } from './piece.ts';

/** What every answer that counts objects depends on. */
export interface Look {
  /** Null for the whole recording. */
  readonly span: Span | null;
  readonly charge: Charge;
  /** What stands in the find field; '' for all. */
  readonly find: string;
  /** Null for the settle time that the lifetimes suggest. */
  readonly settleMs: number | null;
}

/** The whole recording, by own frame. */
export const WHOLE: Look = { span: null, charge: 'ownFrame', find: '', settleMs: null };

type Spanned = { readonly span: PlainSpan | null };
type Settled = Spanned & { readonly settleMs: number | null };
type PlainSpan = { readonly fromMs: number; readonly toMs: number };

/** What of a look counts for its objects, without its charge. */
export type FoundInput = Settled & { readonly find: string };

/** Of what a subject of found objects is cut. */
interface CutFrom {
  readonly whole: Subject;
  readonly found: FoundObjects;
}

/**
 * What is looked at: one run of a study with all of its heaps or some, or the objects found in that. What several
 * measures share is kept here while the recording has not grown. Pieces are shared between answers: nothing of them may
 * be transferred away.
 */
export class Subject {
  readonly recording: Recording;
  readonly index: ObjectIndex;
  private readonly cutFrom: CutFrom | null;
  private readonly pieces = new PieceStore();

  constructor(recording: Recording, cutFrom: CutFrom | null = null) {
    this.recording = recording;
    this.index = new ObjectIndex(recording);
    this.cutFrom = cutFrom;
  }

  /** The piece for an input; all are dropped when the recording has grown or its settings are others. */
  get<I extends PieceInput, T>(of: Piece<Subject, I, T>, input: I): T {
    const { bytes, durationMs, tables, thinnings, ownRules } = this.recording;
    this.pieces.renew(
      JSON.stringify([
        bytes,
        durationMs,
        tables.objects.length,
        thinnings.length,
        this.recording.limitBytes(),
        ownRules,
      ]),
    );
    return this.pieces.get(of, this, input);
  }

  /**
   * The objects that the sizes, ages, fates and kinds of a find let through by the end of the look's span; this subject
   * where a find has words alone, which are looked for in origins. Its objects are a recording of their own.
   */
  within(look: Look): Subject {
    return asksForObjects(look.find) ? this.get(WITHIN, foundInput(look)) : this;
  }

  /** What was found, where this is a subject of found objects; null elsewhere. */
  get found(): FoundObjects | null {
    return this.cutFrom?.found ?? null;
  }

  /** The subject that found objects were cut from; this one where nothing was. */
  get uncut(): Subject {
    return this.cutFrom?.whole ?? this;
  }

  /** The settle time in force, which the lifetimes of all objects suggest. */
  settleMs(look: Settled): number {
    if (this.cutFrom !== null) return this.cutFrom.whole.settleMs(look);
    return look.settleMs ?? settleTimeMs(this.recording, this.spanOf(look), this.index.settleMs);
  }

  /** The span of a look: the whole recording, without what its program let go as it ended, unless one was chosen. */
  spanOf(look: Spanned): Span {
    return look.span ?? workOf(wholeSpan(this.recording), this.index.endOfWorkMs);
  }

  /** Origins that the find field lets through; null for all. */
  chosen(find: string): OriginChoice {
    return this.get(CHOSEN, find);
  }

  /** Sums by origin over the look's span. */
  sums({ span, settleMs }: Settled): SpanSums {
    return this.get(SPAN_SUMS, { span, settleMs });
  }

  /** Flows of a span, and what is inferred of all objects. */
  flows({ span }: Spanned): readonly SpanFlow[] {
    return this.get(FLOWS, { span });
  }

  /** What filled the young space before each young collection of a span, found or not. */
  fill({ span }: Spanned): YoungFill {
    return this.uncut.get(FILL, { span });
  }

  /** The look's figures by key. */
  table(look: Look, charge: Charge = look.charge): ChargeTable {
    return this.get(TABLE, { ...foundInput(look), charge });
  }

  /** What lived over time, of what the find's words let through. */
  levels(find: string): LiveLevels {
    return this.get(LEVELS, find);
  }

  /** The verdict over a span, of everything, found or not. */
  verdict({ span }: Spanned): Verdict {
    return this.uncut.get(VERDICT, { span });
  }

  // What is inferred rests on all objects, so that a part of them is told what the whole says.
  get flowsOfAll(): boolean {
    return this.cutFrom?.found.withFlows === true;
  }
}

/** What of a look counts for its objects, as an input of pieces. */
export function foundInput({ span, settleMs, find }: Look): FoundInput {
  return { span, settleMs, find };
}

const WITHIN = piece(
  'within',
  (subject: Subject, input: FoundInput): Subject => {
    const found = findObjects(subject.recording, input.find, subject.spanOf(input), subject.settleMs(input));
    return new Subject(found.part, { whole: subject, found });
  },
  2,
);

const CHOSEN = piece('chosen', (subject: Subject, find: string) => findOrigins(subject.recording, find));

const SPAN_SUMS = piece('span sums', (subject: Subject, input: Settled): SpanSums => {
  const span = subject.spanOf(input);
  const flows =
    subject.found === null
      ? null
      : subject.flowsOfAll
        ? subject.uncut.sums(input).flows
        : flowSums(subject.recording, span);
  return spanSums(subject.index, span, subject.settleMs(input), flows);
});

const FLOWS = piece('flows', (subject: Subject, input: Spanned): readonly SpanFlow[] => {
  if (subject.found === null) return spanFlows(subject.recording, subject.spanOf(input));
  return subject.flowsOfAll ? subject.uncut.flows(input) : [];
});

const FILL = piece('fill', (subject: Subject, input: Spanned) =>
  youngFill(subject.recording, subject.spanOf(input), subject.flows(input)),
);

const TABLE = piece('table', (subject: Subject, input: FoundInput & { readonly charge: Charge }) =>
  withGrowthShares(
    chargeTable(subject.recording, subject.sums(input), input.charge, subject.chosen(input.find)),
    subject.verdict(input),
  ),
);

const LEVELS = piece('levels', (subject: Subject, find: string) => liveLevels(subject.recording, subject.chosen(find)));

const VERDICT = piece('verdict', (subject: Subject, input: Spanned) => judge(subject.recording, subject.spanOf(input)));
