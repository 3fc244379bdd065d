import {
  asksForObjects,
  chargeTable,
  withGrowthShares,
  findObjects,
  findOrigins,
  flowSums,
  judge,
  liveLevels,
  ObjectIndex,
  settleTimeMs,
  spanFlows,
  spanSums,
  wholeSpan,
  workOf,
  youngFill,
  type Charge,
  type ChargeTable,
  type FoundObjects,
  type LiveLevels,
  type OriginChoice,
  type Recording,
  type Span,
  type SpanFlow,
  type SpanSums,
  type Verdict,
  type YoungFill,
} from '@brisk-heron/core';

/** How a recording is looked at: what every answer that counts objects depends on. */
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

/** Pieces of one kind that are kept: those of two looks from several views. */
const KEPT = 6;

/** Of what evidence about found objects is a part. */
interface Within {
  readonly whole: Evidence;
  readonly found: FoundObjects;
}

/**
 * What the answers about one recording are worked out from, each piece once while the recording has not grown: one
 * screen asks
 * for the same several times. Pieces are shared between answers: nothing of them may be transferred away.
 */
export class Evidence {
  readonly recording: Recording;
  readonly index: ObjectIndex;
  /** By kind, then by what they depend on. */
  private readonly kept = new Map<string, Map<string, unknown>>();
  private keptOf = '';
  private readonly part: Within | null;

  constructor(recording: Recording, part: Within | null = null) {
    this.recording = recording;
    this.index = new ObjectIndex(recording);
    this.part = part;
  }

  /**
   * Evidence of the objects that the sizes, ages, fates and kinds of a find let through by the end of the look's span;
   * this one where a
   * find has words alone, which are looked for in origins. Its objects are a recording of their own.
   */
  within(look: Look): Evidence {
    if (!asksForObjects(look.find)) return this;
    return this.once(
      'within',
      this.keyOf(look),
      () => {
        const found = findObjects(this.recording, look.find, this.spanOf(look), this.settleMs(look));
        return new Evidence(found.part, { whole: this, found });
      },
      2,
    );
  }

  /** What was found, where this is evidence of found objects; null elsewhere. */
  get found(): FoundObjects | null {
    return this.part?.found ?? null;
  }

  /** The settle time in force, which the lifetimes of all objects suggest. */
  settleMs(look: Look): number {
    if (this.part !== null) return this.part.whole.settleMs(look);
    return look.settleMs ?? settleTimeMs(this.recording, this.spanOf(look), this.index.settleMs);
  }

  /** The span of a look: the whole recording, without what its program let go as it ended, unless one was chosen. */
  spanOf(look: Pick<Look, 'span'>): Span {
    return look.span ?? workOf(wholeSpan(this.recording), this.index.endOfWorkMs);
  }

  /** Origins that the find field lets through; null for all. */
  chosen(find: string): OriginChoice {
    return this.once('find', find, () => findOrigins(this.recording, find));
  }

  sums(look: Look): SpanSums {
    const span = this.spanOf(look);
    return this.once('sums', `${spanKey(span)} ${look.settleMs}`, () =>
      spanSums(
        this.index,
        span,
        this.settleMs(look),
        this.part === null
          ? null
          : this.flowsOfAll()
            ? this.part.whole.sums(look).flows
            : flowSums(this.recording, span),
      ),
    );
  }

  /** Flows of a span, and what is inferred of all objects. */
  flows(look: Look): readonly SpanFlow[] {
    const span = this.spanOf(look);
    return this.once('flows', spanKey(span), () =>
      this.part === null ? spanFlows(this.recording, span) : this.flowsOfAll() ? this.part.whole.flows(look) : [],
    );
  }

  /** What filled the young space before each young collection of a span, found or not. */
  fill(look: Look): YoungFill {
    if (this.part !== null) return this.part.whole.fill(look);
    const span = this.spanOf(look);
    return this.once('fill', spanKey(span), () => youngFill(this.recording, span, this.flows(look)));
  }

  // What is inferred rests on all objects, so that a part of them is told what the whole says.
  private flowsOfAll(): boolean {
    return this.part?.found.withFlows === true;
  }

  table(look: Look, charge: Charge = look.charge): ChargeTable {
    return this.once('table', `${this.keyOf(look)} ${charge}`, () =>
      withGrowthShares(
        chargeTable(this.recording, this.sums(look), charge, this.chosen(look.find)),
        this.verdict(look),
      ),
    );
  }

  levels(find: string): LiveLevels {
    return this.once('levels', find, () => liveLevels(this.recording, this.chosen(find)));
  }

  verdict(look: Pick<Look, 'span'>): Verdict {
    if (this.part !== null) return this.part.whole.verdict(look);
    const span = this.spanOf(look);
    return this.once('verdict', `${spanKey(span)} ${this.recording.limitBytes()}`, () => judge(this.recording, span));
  }

  /** What a look at the objects depends on, but for its charge. */
  keyOf(look: Look): string {
    return `${spanKey(this.spanOf(look))} ${look.settleMs} ${look.find}`;
  }

  /**
   * A piece by its kind and what it depends on. Of each kind the oldest goes when there are more than `most`, which is
   * 1 for pieces as
   * large as the events themselves; all go when the recording has grown.
   */
  once<T>(kind: string, key: string, make: () => T, most = KEPT): T {
    const { bytes, durationMs, tables, thinnings, ownRules } = this.recording;
    const of = `${bytes} ${durationMs} ${tables.objects.length} ${thinnings.length} ${ownRules.join(' ')}`;
    if (of !== this.keptOf) this.kept.clear();
    this.keptOf = of;
    let pieces = this.kept.get(kind);
    if (pieces === undefined) this.kept.set(kind, (pieces = new Map()));
    if (pieces.has(key)) return pieces.get(key) as T;
    const made = make();
    pieces.set(key, made);
    const oldest = pieces.keys().next().value;
    if (pieces.size > most && oldest !== undefined) pieces.delete(oldest);
    return made;
  }
}

function spanKey({ fromMs, toMs }: Span): string {
  return `${fromMs}-${toMs}`;
}
