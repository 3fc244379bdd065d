import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { InputReader } from '@brisk-heron/core';
import { ReadSoFar } from '../../src/worker/read-so-far.ts';

const LOG = readFileSync(join(__dirname, '../../../../examples/logs/weirkeeper-g1.log'));

test('what was read so far is told now and again while a log is read', () => {
  const now = jest.spyOn(performance, 'now');
  const reader = new InputReader();
  const soFar = new ReadSoFar(reader);
  now.mockReturnValue(0);
  expect(soFar.told).toBeNull();
  reader.write(LOG.subarray(0, LOG.length >> 1));
  // The last look was just now.
  expect(soFar.told).toBeNull();
  now.mockReturnValue(1000);
  const half = soFar.told!;
  const { collections } = reader.runs[0]!.tables;
  expect(half.collections).toBe(collections.length);
  expect(half.durationMs).toBe(reader.runs[0]!.durationMs);
  expect(Math.max(...half.most)).toBe(
    Math.max(...collections.col.usedBeforeBytes.subarray(0, collections.length).filter((bytes) => bytes > 0)),
  );
  expect(half.least.every((least, at) => least <= half.most[at]!)).toBe(true);
  reader.write(LOG.subarray(LOG.length >> 1));
  now.mockReturnValue(1100);
  expect(soFar.told).toBe(half);
  now.mockReturnValue(2000);
  expect(soFar.told!.collections).toBeGreaterThan(half.collections);
  now.mockRestore();
});

test('where looking takes long it is done less often', () => {
  let nowMs = 0;
  const now = jest.spyOn(performance, 'now').mockImplementation(() => nowMs);
  const reader = new InputReader();
  reader.write(LOG);
  let looks = 0;
  const soFar = new ReadSoFar({
    get runs() {
      looks++;
      nowMs += 200;
      return reader.runs;
    },
  });
  for (; nowMs < 60_000; nowMs += 50) expect(soFar.told).not.toBeNull();
  expect(looks).toBeLessThanOrEqual(12);
  expect(looks).toBeGreaterThan(8);
  now.mockRestore();
});
