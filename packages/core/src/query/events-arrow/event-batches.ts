import {
  Bool,
  Dictionary,
  Field,
  Float32,
  Float64,
  Int32,
  makeData,
  RecordBatch,
  Schema,
  Struct,
  Uint32,
  Utf8,
  type Data,
  type DataType,
  type Vector,
} from 'apache-arrow';
import { lastKnownAlive } from '../../analysis/last-known-alive.ts';
import { NONE } from '../../base/ids.ts';
import { frameText, siteLabel } from '../../model/call-path.ts';
import { nearestOwnPaths } from '../../model/own-frame.ts';
import { packageName } from '../../model/package-name.ts';
import type { Recording } from '../../model/recording.ts';
import { Scope } from '../../model/tables.ts';
import { estimatedBytes } from '../../stats/horvitz-thompson.ts';
import { boolData, floatData, idData, nullData, textData, TextDictionary } from './arrow-columns.ts';

/** Rows of a record batch. */
const BATCH_ROWS = 65_536;

/** Columns of texts, each with a dictionary of its own. */
const TEXTS = [
  'kind',
  'type',
  'thread',
  'heap',
  'site',
  'own_frame',
  'function',
  'file',
  'package',
  'label',
  'cause',
  'scope',
] as const;
type TextName = (typeof TEXTS)[number];

/** Other columns with their types; docs/events-arrow.md says what they mean. */
const NUMBERS = {
  t_ms: () => new Float64(),
  end_ms: () => new Float64(),
  alive_ms: () => new Float64(),
  lost: () => new Bool(),
  size_bytes: () => new Float64(),
  probability: () => new Float32(),
  bytes: () => new Float64(),
  objects: () => new Float64(),
  se_bytes: () => new Float64(),
  path_id: () => new Uint32(),
  collection: () => new Uint32(),
  used_before_bytes: () => new Float64(),
  used_after_bytes: () => new Float64(),
  pause_ms: () => new Float64(),
} as const;
type NumberName = keyof typeof NUMBERS;

/** Values of one batch; a column that is missing is null throughout. */
type Columns = { [K in NumberName]?: Data } & { [K in TextName]?: Int32Array };

/** Version of the columns, in the file's metadata under `schema`. */
const EVENTS_SCHEMA = 'brisk-heron/events@1';

/** Turns a recording's events into record batches, kind by kind, each in the order of its table. */
export class EventBatches {
  readonly schema: Schema;
  private readonly recording: Recording;
  private readonly dictionaries: Readonly<Record<TextName, TextDictionary>>;
  private readonly types: Readonly<Record<TextName, Dictionary<Utf8, Int32>>>;
  private readonly vectors: Readonly<Record<TextName, Vector<Utf8>>>;
  /** Indices of the texts of each origin, by origin id. */
  private readonly ofOrigin: Readonly<
    Record<'type' | 'thread' | 'heap' | 'site' | 'own_frame' | 'function' | 'file' | 'package', Int32Array>
  >;
  /** Index of each kind in the dictionary of kinds. */
  private readonly kinds: Readonly<Record<'object' | 'flow' | 'collection' | 'pause' | 'mark', number>>;

  constructor(recording: Recording) {
    this.recording = recording;
    this.dictionaries = named(TEXTS, () => new TextDictionary());
    const add = (name: TextName, text: string | null): number => this.dictionaries[name].add(text);
    this.kinds = named(['object', 'flow', 'collection', 'pause', 'mark'] as const, (kind) => add('kind', kind));
    for (const scope of ['young', 'mixed', 'whole']) add('scope', scope);
    this.ofOrigin = this.originTexts();
    this.addLabels();
    // Dictionaries are written before any row: whatever will be looked up is in them by now.
    this.vectors = named(TEXTS, (name) => this.dictionaries[name].vector());
    this.types = named(TEXTS, (_, at) => new Dictionary(new Utf8(), new Int32(), at));
    const fields = [
      ...numberNames().map((name) => new Field(name, NUMBERS[name](), true)),
      ...TEXTS.map((name) => new Field(name, this.types[name], true)),
    ];
    this.schema = new Schema(
      fields,
      new Map([
        ['schema', EVENTS_SCHEMA],
        ['program', recording.program],
        ['runtime', recording.runtime],
        ['start_epoch_ms', Number.isNaN(recording.startEpochMs) ? '' : String(recording.startEpochMs)],
        ['duration_ms', String(recording.durationMs)],
      ]),
    );
  }

  /** Rows of all batches together. */
  get rows(): number {
    const { objects, flows, collections, pauses, marks } = this.recording.tables;
    return objects.length + flows.length + collections.length + pauses.length + marks.length;
  }

  /** The batches, made one by one as they are asked for. */
  *batches(): Generator<RecordBatch> {
    const { objects, flows, collections, pauses, marks } = this.recording.tables;
    const alive = lastKnownAlive(this.recording);
    yield* this.sliced('object', objects.length, (from, to) => this.objects(from, to, alive));
    yield* this.sliced('flow', flows.length, (from, to) => this.flows(from, to));
    yield* this.sliced('collection', collections.length, (from, to) => this.collections(from, to));
    yield* this.sliced('pause', pauses.length, (from, to) => this.pauses(from, to));
    yield* this.sliced('mark', marks.length, (from, to) => this.marks(from, to));
  }

  private *sliced(
    kind: keyof EventBatches['kinds'],
    length: number,
    columnsOf: (from: number, to: number) => Columns,
  ): Generator<RecordBatch> {
    for (let from = 0; from < length; from += BATCH_ROWS) {
      const to = Math.min(length, from + BATCH_ROWS);
      yield this.batch(to - from, { ...columnsOf(from, to), kind: new Int32Array(to - from).fill(this.kinds[kind]) });
    }
  }

  private objects(from: number, to: number, aliveMs: (row: number) => number): Columns {
    const { bornMs, endMs, lost, sizeBytes, probability, originId } = this.recording.tables.objects.col;
    const length = to - from;
    const [alive, size, bytes, objects, se] = Array.from({ length: 5 }, () => new Float64Array(length)) as [
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
    ];
    for (let row = from, at = 0; row < to; row++, at++) {
      const p = probability[row]!;
      alive[at] = aliveMs(row);
      // A scaled estimate is no size: the source tells none.
      size[at] = p === p ? sizeBytes[row]! : NaN;
      bytes[at] = estimatedBytes(sizeBytes[row]!, p);
      objects[at] = 1 / p;
      se[at] = p === p ? Math.sqrt(1 - p) * bytes[at]! : bytes[at]!;
    }
    return {
      t_ms: floatData(bornMs.slice(from, to)),
      end_ms: floatData(endMs.slice(from, to)),
      alive_ms: floatData(alive),
      lost: boolData(lost.slice(from, to)),
      size_bytes: floatData(size),
      probability: floatData(probability.slice(from, to)),
      bytes: floatData(bytes),
      objects: floatData(objects),
      se_bytes: floatData(se),
      ...this.originColumns(originId, from, to),
    };
  }

  private flows(from: number, to: number): Columns {
    const { fromMs, toMs, bytes, seBytes, count, originId } = this.recording.tables.flows.col;
    return {
      t_ms: floatData(fromMs.slice(from, to)),
      end_ms: floatData(toMs.slice(from, to)),
      bytes: floatData(bytes.slice(from, to)),
      objects: floatData(count.slice(from, to)),
      se_bytes: floatData(seBytes.slice(from, to)),
      ...this.originColumns(originId, from, to),
    };
  }

  private collections(from: number, to: number): Columns {
    const { startMs, endMs, usedBeforeBytes, usedAfterBytes, labelId, causeId, scope, heapId } =
      this.recording.tables.collections.col;
    return {
      t_ms: floatData(startMs.slice(from, to)),
      end_ms: floatData(endMs.slice(from, to)),
      collection: idData(Uint32Array.from({ length: to - from }, (_, at) => from + at)),
      used_before_bytes: floatData(usedBeforeBytes.slice(from, to)),
      used_after_bytes: floatData(usedAfterBytes.slice(from, to)),
      label: this.strings('label', labelId, from, to),
      cause: this.strings('cause', causeId, from, to),
      scope: this.scopes(scope, from, to),
      heap: this.heaps(heapId, from, to),
    };
  }

  private pauses(from: number, to: number): Columns {
    const { startMs, durationMs, usedBeforeBytes, usedAfterBytes, collectionRow, labelId, causeId, scope, heapId } =
      this.recording.tables.pauses.col;
    return {
      t_ms: floatData(startMs.slice(from, to)),
      end_ms: floatData(
        Float64Array.from({ length: to - from }, (_, at) => startMs[from + at]! + durationMs[from + at]!),
      ),
      pause_ms: floatData(durationMs.slice(from, to)),
      collection: idData(collectionRow.slice(from, to)),
      used_before_bytes: floatData(usedBeforeBytes.slice(from, to)),
      used_after_bytes: floatData(usedAfterBytes.slice(from, to)),
      label: this.strings('label', labelId, from, to),
      cause: this.strings('cause', causeId, from, to),
      scope: this.scopes(scope, from, to),
      heap: this.heaps(heapId, from, to),
    };
  }

  private marks(from: number, to: number): Columns {
    const { tMs, labelId, heapId } = this.recording.tables.marks.col;
    return {
      t_ms: floatData(tMs.slice(from, to)),
      label: this.strings('label', labelId, from, to),
      heap: this.heaps(heapId, from, to),
    };
  }

  private originColumns(originId: Uint32Array, from: number, to: number): Columns {
    const { pathId } = this.recording.tables.origins.col;
    const paths = new Uint32Array(to - from);
    for (let row = from, at = 0; row < to; row++, at++) paths[at] = pathId[originId[row]!]!;
    const pick = (indices: Int32Array): Int32Array => {
      const picked = new Int32Array(to - from);
      for (let row = from, at = 0; row < to; row++, at++) picked[at] = indices[originId[row]!]!;
      return picked;
    };
    return {
      path_id: idData(paths),
      ...named(Object.keys(this.ofOrigin) as (keyof EventBatches['ofOrigin'])[], (name) => pick(this.ofOrigin[name])),
    };
  }

  private strings(name: 'label' | 'cause', ids: Uint32Array, from: number, to: number): Int32Array {
    return Int32Array.from(ids.subarray(from, to), (id) =>
      this.dictionaries[name].add(id === NONE ? null : this.recording.strings.text(id)),
    );
  }

  private scopes(scope: Uint8Array, from: number, to: number): Int32Array {
    return Int32Array.from(scope.subarray(from, to), (code) =>
      this.dictionaries.scope.add(
        code === Scope.young ? 'young' : code === Scope.mixed ? 'mixed' : code === Scope.whole ? 'whole' : null,
      ),
    );
  }

  private heaps(heapId: Uint16Array, from: number, to: number): Int32Array {
    return Int32Array.from(heapId.subarray(from, to), (id) =>
      this.dictionaries.heap.add(this.recording.heaps[id]?.name ?? null),
    );
  }

  private addLabels(): void {
    const { collections, pauses, marks } = this.recording.tables;
    for (const [table, name, ids] of [
      [collections, 'label', collections.col.labelId],
      [pauses, 'label', pauses.col.labelId],
      [marks, 'label', marks.col.labelId],
      [collections, 'cause', collections.col.causeId],
      [pauses, 'cause', pauses.col.causeId],
    ] as const) {
      this.strings(name, ids, 0, table.length);
    }
    for (const { name } of this.recording.heaps) this.dictionaries.heap.add(name);
  }

  private originTexts(): EventBatches['ofOrigin'] {
    const { recording, dictionaries } = this;
    const { origins, paths } = recording.tables;
    const { pathId, typeId, threadId, heapId } = origins.col;
    const nearest = nearestOwnPaths(recording);
    const frameOf = (path: number) => (path === NONE ? null : frameText(recording, paths.col.frameId[path]!));
    const text = (id: number): string | null => (id === NONE ? null : recording.strings.text(id));
    const names = ['type', 'thread', 'heap', 'site', 'own_frame', 'function', 'file', 'package'] as const;
    const found = named(names, () => new Int32Array(origins.length));
    for (let originId = 0; originId < origins.length; originId++) {
      const path = pathId[originId]!;
      const [site, own] = [frameOf(path), frameOf(path === NONE ? NONE : nearest[path]!)];
      const texts = {
        type: text(typeId[originId]!),
        thread: text(threadId[originId]!),
        heap: recording.heaps[heapId[originId]!]?.name ?? null,
        site: site && siteLabel(site),
        own_frame: own && siteLabel(own),
        function: site?.functionName ?? null,
        file: site?.file ?? null,
        package: site && packageName(site.file),
      };
      for (const name of names) found[name][originId] = dictionaries[name].add(texts[name]);
    }
    return found;
  }

  private batch(length: number, columns: Columns): RecordBatch {
    const numbers = numberNames().map((name): Data => columns[name] ?? nullData(NUMBERS[name](), length, null));
    const texts = TEXTS.map((name): Data => {
      const indices = columns[name];
      return indices === undefined
        ? nullData(this.types[name], length, this.vectors[name])
        : textData(this.types[name], this.vectors[name], indices);
    });
    return new RecordBatch(
      this.schema,
      makeData({
        // eslint-disable-next-line no-restricted-syntax -- the type of the format's own columns
        type: new Struct<Record<string, DataType>>(this.schema.fields),
        length,
        nullCount: 0,
        children: [...numbers, ...texts],
      }),
    );
  }
}

function numberNames(): NumberName[] {
  return Object.keys(NUMBERS) as NumberName[];
}

function named<K extends string, T>(names: readonly K[], of: (name: K, at: number) => T): Record<K, T> {
  return Object.fromEntries(names.map((name, at) => [name, of(name, at)])) as Record<K, T>;
}
