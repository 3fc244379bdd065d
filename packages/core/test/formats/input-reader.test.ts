import fc from 'fast-check';
import { InputReader } from '../../src/formats/input-reader.ts';
import { orderParts } from '../../src/formats/part-order.ts';
import { readRecordingHeader, writeRecordingHeader } from '../../src/formats/recording-file/container.ts';
import { detectFormat } from '../../src/formats/registry.ts';
import { bytesOf, lastRun, readBytes } from './read-input.ts';

const JVM =
  '[0.006s][info][gc] Using Serial\n[0.263s][info][gc] GC(0) Pause Young (Allocation Failure) 6M->2M(64M) 2.5ms\n';
const V8 =
  '[88:0x2b94]       48 ms: Scavenge 4.1 (4.2) -> 3.4 (5.2) MB, 0.88 / 0.00 ms  (average mu = 1.000, current mu = 1.000) task; \n';
const HELLO = '{"k":"hello","schema":"brisk-heron/stream@1","h":"1","epochMs":1,"program":"tide","runtime":"r"}\n';

test.each([
  ['jvm-unified', JVM],
  ['v8-trace', V8],
  ['recording', HELLO],
])('%s is known by its content', (name, text) => {
  expect(detectFormat(text.split('\n'))!.name).toBe(name);
  expect(detectFormat(`gauges up\n\n${text}`.split('\n'))!.name).toBe(name);
});

test('text of no format has none', () => {
  expect(detectFormat(['Dear keeper,', 'the tide is high.'])).toBeNull();
  expect(detectFormat([])).toBeNull();
});

test('a log behind much chatter of the program is found', () => {
  const chatter = 'reading of gauge 4711 received\n'.repeat(20_000);
  expect(lastRun(readBytes(bytesOf(chatter + JVM))).tables.pauses.length).toBe(1);
});

test('a live stream is known from its first line on', () => {
  const reader = new InputReader();
  reader.write(bytesOf(HELLO.slice(0, 40)));
  reader.lookNow();
  expect(reader.runs).toEqual([]);
  reader.write(bytesOf(HELLO.slice(40)));
  reader.lookNow();
  expect(reader.runs[0]!.program).toBe('tide');
});

test('arbitrary bytes are refused, not thrown at', () => {
  fc.assert(
    fc.property(fc.array(fc.uint8Array({ maxLength: 300 }), { maxLength: 5 }), (chunks) => {
      const reader = new InputReader();
      for (const chunk of chunks) reader.write(chunk);
      expect(reader.end().ok).toBe(false);
    }),
    { seed: 12, numRuns: 200 },
  );
});

test('damaged streams never throw and keep what is whole', () => {
  const lines = `${HELLO}{"k":"mark","h":"1","t":5,"label":"a","by":"page"}\n`;
  fc.assert(
    fc.property(fc.nat(lines.length - 1), fc.uint8Array({ minLength: 1, maxLength: 30 }), (at, noise) => {
      const bytes = bytesOf(lines);
      const damaged = Uint8Array.from([...bytes.slice(0, at), ...noise, ...bytes.slice(at)]);
      const result = readBytes(damaged);
      if (result.ok) expect(result.runs[0]!.tables.marks.length).toBeLessThanOrEqual(1);
    }),
    { seed: 13, numRuns: 300 },
  );
});

test('an input without any format costs bounded memory', () => {
  const reader = new InputReader();
  const chunk = bytesOf('no collection here\n'.repeat(50_000));
  for (let n = 0; n < 30; n++) reader.write(chunk);
  expect(reader.end()).toMatchObject({ ok: false, code: 'unknown-format' });
});

test('parts of a rotated log are put in the order of their clocks', () => {
  const part = (uptime: string): string => `half a line\n[${uptime}s][info][gc] GC(1) Pause\n`;
  expect(orderParts([part('9.100'), part('0.100'), part('4.000')])).toEqual([1, 2, 0]);
  expect(orderParts(['nothing told', part('4.000'), V8])).toEqual([2, 1, 0]);
  expect(orderParts(['a', 'b'])).toEqual([0, 1]);
});

test('a header says what an export holds, and a broken one what was expected', () => {
  const header = { name: 'run 3, spring tide', createdEpochMs: 7, parts: [{ name: 'a.log', bytes: 12 }] };
  expect(readRecordingHeader(writeRecordingHeader(header).trim())).toEqual({
    ok: true,
    header: { schema: 'brisk-heron/recording@1', ...header },
  });
  expect(readRecordingHeader('{"schema":"brisk-heron/recording@1"')).toMatchObject({
    ok: false,
    why: expect.stringContaining('cut off') as string,
  });
  expect(readRecordingHeader('{"schema":"brisk-heron/recording@1","name":"a","createdEpochMs":1,"parts":[]}').ok).toBe(
    false,
  );
});
