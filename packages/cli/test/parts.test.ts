import { renderText } from '../src/render/text.ts';
import { dataDirectory, serverAddress } from '../src/places.ts';
import { analysisReport } from '../../core/src/analysis/analysis-report.ts';
import { InputReader } from '../../core/src/formats/input-reader.ts';
import { readFileSync } from 'node:fs';
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
  expect(renderText({ ...report, source: { ...report.source, issues: { count: 3, byCode: { 'cut-line': 3 }, first: [] } } })).toContain('left out      3 lines: cut-line 3');
});

test('places come from the environment, else from where the user keeps data', () => {
  expect(dataDirectory({ BRISK_HERON_DATA: '/data' })).toBe('/data');
  expect(dataDirectory({ XDG_DATA_HOME: '/home/keeper/data' })).toBe('/home/keeper/data/brisk-heron');
  expect(dataDirectory({ BRISK_HERON_DATA: '' })).toMatch(/\.local\/share\/brisk-heron$/);
  expect([serverAddress({}), serverAddress({ BRISK_HERON_SERVER: 'http://127.0.0.1:9' })]).toEqual(['http://127.0.0.1:4517', 'http://127.0.0.1:9']);
});
