import {
  chargeTable, findOrigins, judge, liveLevels, ObjectIndex, spanSums, wholeSpan,
  type Charge, type ChargeTable, type LiveLevels, type OriginChoice, type Recording, type Span, type SpanSums, type Verdict,
} from '@brisk-heron/core';

/** How a recording is looked at: what every answer that counts objects depends on. */
export interface Look {
  /** Null for the whole recording. */
  readonly span: Span | null;
  readonly charge: Charge;
  /** Words of the find field; '' for all. */
  readonly find: string;
  /** Null for the settle time that the lifetimes suggest. */
  readonly settleMs: number | null;
}

/** The whole recording, by own frame. */
export const WHOLE: Look = { span: null, charge: 'ownFrame', find: '', settleMs: null };

const KEPT = 24;

/**
 * What the answers about one recording are worked out from, each piece once while the recording has not grown: one screen asks
 * for the same several times. Pieces are shared between answers: nothing of them may be transferred away.
 */
export class Evidence {
  readonly recording: Recording;
  readonly index: ObjectIndex;
  private readonly kept = new Map<string, unknown>();
  private keptOf = '';

  constructor(recording: Recording) {
    this.recording = recording;
    this.index = new ObjectIndex(recording);
  }

  spanOf(look: Pick<Look, 'span'>): Span {
    return look.span ?? wholeSpan(this.recording);
  }

  /** Origins that the find field lets through; null for all. */
  chosen(find: string): OriginChoice {
    return this.once(`find ${find}`, () => findOrigins(this.recording, find));
  }

  sums(look: Look): SpanSums {
    const span = this.spanOf(look);
    return this.once(`sums ${spanKey(span)} ${look.settleMs}`, () => spanSums(this.index, span, look.settleMs));
  }

  table(look: Look, charge: Charge = look.charge): ChargeTable {
    return this.once(`table ${this.keyOf(look)} ${charge}`, () => chargeTable(this.recording, this.sums(look), charge, this.chosen(look.find)));
  }

  levels(find: string): LiveLevels {
    return this.once(`levels ${find}`, () => liveLevels(this.recording, this.chosen(find)));
  }

  verdict(look: Pick<Look, 'span'>): Verdict {
    const span = this.spanOf(look);
    return this.once(`verdict ${spanKey(span)} ${this.recording.limitBytes()}`, () => judge(this.recording, span));
  }

  /** What a look at the objects depends on, but for its charge. */
  keyOf(look: Look): string {
    return `${spanKey(this.spanOf(look))} ${look.settleMs} ${look.find}`;
  }

  /** A piece by its key. The oldest goes when there are too many, and all when the recording has grown. */
  once<T>(key: string, make: () => T): T {
    const { bytes, durationMs, tables } = this.recording;
    const of = `${bytes} ${durationMs} ${tables.objects.length} ${this.recording.ownRules.join(' ')}`;
    if (of !== this.keptOf) this.kept.clear();
    this.keptOf = of;
    if (this.kept.has(key)) return this.kept.get(key) as T;
    const made = make();
    this.kept.set(key, made);
    const oldest = this.kept.keys().next().value;
    if (this.kept.size > KEPT && oldest !== undefined) this.kept.delete(oldest);
    return made;
  }
}

function spanKey({ fromMs, toMs }: Span): string {
  return `${fromMs}-${toMs}`;
}
