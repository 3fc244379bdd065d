import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { javaName, programName } from '../src/recording/recorder-environment.ts';
import { addLeftMarks } from '../src/recording/left-marks.ts';
import { usedBytes } from '../src/recording/jvm-attach.ts';
import { findServer } from '../src/recording/server-access.ts';
import { scratch } from '../../../test/run-heron.ts';
import { renderText } from '../src/render/text.ts';
import { dataDirectory, serverAddress } from '../src/places.ts';
import { analysisReport } from '../../core/src/measures/analysis-report.ts';
import { InputReader } from '../../core/src/formats/input-reader.ts';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';

const EXAMPLES = join(__dirname, '../../../examples');

function reportOf(file: string) {
  const bytes = readFileSync(join(EXAMPLES, file));
  const reader = new InputReader();
  reader.write(bytes[0] === 0x1f ? gunzipSync(bytes) : bytes);
  const result = reader.end();
  if (!result.ok) throw new Error(result.message);
  return analysisReport(result.runs[0]!);
}

test('text names the verdict, the pauses and the sites', () => {
  const text = renderText(reportOf('recordings/tidewatch-with-its-leak-and-churn.heron'));
  expect(text).toMatch(/^Growing \d/);
  expect(text).toMatch(/\npauses +\d+, .* in all; p50 .*ms, p99 /);
  expect(text).toMatch(/adds\/min.*\n.*subscribe alerts\.js:14\n/);
  expect(text.endsWith('\n')).toBe(true);
});

test('what is unknown is said to be unknown, and a log has no sites', () => {
  const text = renderText({ ...reportOf('logs/weirkeeper-serial.log'), allocation: null });
  expect(text).toContain('allocation    unknown');
  expect(text).not.toContain('adds/min');
});

test('lines that were left out are counted', () => {
  const report = reportOf('logs/weirkeeper-serial.log');
  expect(
    renderText({ ...report, source: { ...report.source, issues: { count: 3, byCode: { 'cut-line': 3 }, first: [] } } }),
  ).toContain('left out      3 lines: cut-line 3');
});

test('places come from the environment, else from where the user keeps data', () => {
  expect(dataDirectory({ BRISK_HERON_DATA: '/data' })).toBe('/data');
  expect(dataDirectory({ XDG_DATA_HOME: '/home/keeper/data' })).toBe('/home/keeper/data/brisk-heron');
  expect(dataDirectory({ BRISK_HERON_DATA: '' })).toMatch(/\.local\/share\/brisk-heron$/);
  expect([serverAddress({}), serverAddress({ BRISK_HERON_SERVER: 'http://127.0.0.1:9' })]).toEqual([
    'http://127.0.0.1:4517',
    'http://127.0.0.1:9',
  ]);
});

describe('a server at an address', () => {
  const servers: Server[] = [];
  afterEach(() => {
    for (const server of servers.splice(0)) server.close();
  });

  const answering = async (body: string, afterMs = 0): Promise<string> => {
    const server = createServer((_, response) => {
      setTimeout(() => response.end(body), afterMs);
    });
    servers.push(server);
    await new Promise<void>((resolve) => {
      server.listen(0, '127.0.0.1', resolve);
    });
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  };

  test('is found though it is slow', async () => {
    // Longer than a machine that is only busy takes; a short wait had taken it for none.
    expect(await findServer({ address: await answering('{"service":"brisk-heron"}', 1800), token: '' })).toBe(true);
  });

  test('is none where nothing listens', async () => {
    const address = await answering('');
    await new Promise((resolve) => {
      servers.pop()!.close(resolve);
    });
    expect(await findServer({ address, token: '' })).toBe(false);
  });

  test.each(['{"service":"weirs"}', 'not json', ''])(
    'is another program that says %j, and is left alone',
    async (body) => {
      await expect(findServer({ address: await answering(body), token: '' })).rejects.toThrow(
        /another program answers at http:\/\/127\.0\.0\.1:\d+: name a free address with --server/,
      );
    },
  );
});

test.each([
  [['-jar', 'weir.jar', 'x'], 'weir.jar'],
  [['-Xmx64m', '-cp', 'a.jar:b.jar', 'org.saltmarsh.Weirkeeper', '10'], 'Weirkeeper'],
  [['-cp', 'a.jar', 'net.quay.startup.Bootstrap', 'start'], 'net.quay.startup.Bootstrap'],
  [['--add-modules', 'a.b', 'src/Weirkeeper.java'], 'Weirkeeper.java'],
  [['-m', 'weir/org.saltmarsh.Main'], 'weir/org.saltmarsh.Main'],
  [['-version'], null],
  [[], null],
])('the JVM of %j is called %j', (words, name) => {
  expect(javaName(words)).toBe(name);
});

test('a run of tests is named as such', () => {
  expect(programName(['node', '--test', 'a.test.mjs'])).toBe('node --test');
  expect(programName(['java', '-cp', 'x', 'org.saltmarsh.Weirkeeper'])).toBe('Weirkeeper');
});

test('of marks with one label those that no recorder read are added, at the time they were set', async () => {
  const [spool, control] = [join(scratch(), 'run.ndjson'), join(scratch(), 'run.control')];
  const hello = (h: string): string =>
    `{"k":"hello","h":"${h}","schema":"brisk-heron/stream@1","epochMs":1000,"program":"w","runtime":"r"}\n`;
  const told = (h: string): string => `{"k":"mark","h":"${h}","t":5,"label":"mark","by":"page"}\n`;
  writeFileSync(spool, hello('1.0') + hello('1.1') + told('1.0') + told('1.1'));
  writeFileSync(
    control,
    [2000, 3000, 4000].map((epochMs) => `${JSON.stringify({ do: 'mark', label: 'mark', epochMs })}\n`).join(''),
  );
  expect(await addLeftMarks({ spool, control })).toBe(2);
  expect(
    readFileSync(spool, 'utf8')
      .split('\n')
      .slice(4, 6)
      .map((line) => (JSON.parse(line) as { t: number }).t),
  ).toEqual([2000, 3000]);
});

test.each([
  [
    ' def new generation   total 39296K, used 10486K [0x0)\n tenured generation   total 87424K, used 100K [0x0)\n Metaspace       used 90K',
    10586,
  ],
  [' PSYoungGen      total 38400K, used 10780K [0x0)\n ParOldGen       total 87552K, used 20K [0x0)', 10800],
  [' garbage-first heap   total 131072K, used 8923K [0x0)\n  class space    used 3K, committed 128K', 8923],
  ['Shenandoah Heap\n 128M max, 128M soft max, 128M committed, 8960K used', 8960],
  [' ZHeap           used 16M, capacity 128M, max capacity 128M', 16 * 1024],
  ['nothing that is known', NaN],
])('%j uses so much', (info, kilobytes) => {
  expect(usedBytes(info)).toBe(kilobytes * 1024);
});
