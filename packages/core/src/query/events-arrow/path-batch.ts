import {
  Bool,
  Dictionary,
  Field,
  Int32,
  makeData,
  RecordBatch,
  Schema,
  Struct,
  Uint32,
  Utf8,
  type Data,
  type DataType,
} from 'apache-arrow';
import { NONE } from '../../base/ids.ts';
import { frameText } from '../../model/call-path.ts';
import { ownFileTest } from '../../model/own-frame.ts';
import { packageName } from '../../model/package-name.ts';
import type { Recording } from '../../model/recording.ts';
import { boolData, idData, textData, TextDictionary } from './arrow-columns.ts';

/** Version of the columns, in the file's metadata under `schema`. */
const PATHS_SCHEMA = 'brisk-heron/paths@1';

const TEXTS = ['function', 'file', 'package'] as const;

/** Call paths as one record batch: each is its parent and one frame more, parents before children. */
export function pathBatch(recording: Recording): RecordBatch {
  const {
    length,
    col: { parentId, frameId },
  } = recording.tables.paths;
  const isOwn = ownFileTest(recording.ownRules);
  const dictionaries = TEXTS.map(() => new TextDictionary());
  const indices = TEXTS.map(() => new Int32Array(length));
  const [line, column, depth, own] = [
    new Uint32Array(length),
    new Uint32Array(length),
    new Uint32Array(length),
    new Uint8Array(length),
  ];
  for (let pathId = 0; pathId < length; pathId++) {
    const frame = frameText(recording, frameId[pathId]!);
    [frame.functionName, frame.file, packageName(frame.file)].forEach((text, at) => {
      indices[at]![pathId] = dictionaries[at]!.add(text);
    });
    // Counted from 1; 0 is unknown, which is null here.
    line[pathId] = frame.line > 0 ? frame.line : NONE;
    column[pathId] = frame.column > 0 ? frame.column : NONE;
    depth[pathId] = parentId[pathId] === NONE ? 0 : depth[parentId[pathId]!]! + 1;
    own[pathId] = isOwn(frame.file) ? 1 : 0;
  }
  const ids = {
    path_id: Uint32Array.from({ length }, (_, pathId) => pathId),
    parent_id: parentId.slice(0, length),
    line,
    column,
    depth,
  };
  const types = TEXTS.map((_, at) => new Dictionary(new Utf8(), new Int32(), at));
  const children: Data[] = [
    ...Object.values(ids).map(idData),
    boolData(own),
    ...types.map((type, at) => textData(type, dictionaries[at]!.vector(), indices[at]!)),
  ];
  const fields = [
    ...Object.keys(ids).map((name) => new Field(name, new Uint32(), true)),
    new Field('own', new Bool(), false),
    ...types.map((type, at) => new Field(TEXTS[at]!, type, false)),
  ];
  const schema = new Schema(
    fields,
    new Map([
      ['schema', PATHS_SCHEMA],
      ['program', recording.program],
    ]),
  );
  return new RecordBatch(
    schema,
    makeData({
      // eslint-disable-next-line no-restricted-syntax -- the type of the format's own columns
      type: new Struct<Record<string, DataType>>(fields),
      length,
      nullCount: 0,
      children,
    }),
  );
}
