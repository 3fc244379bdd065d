import { INSTANT_MS, NONE_SAMPLED } from '../../model/heap-graph.ts';
import { Recording } from '../../model/recording.ts';
import { V8 } from '../../runtimes/v8.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { SnapshotParts } from './snapshot-graph.ts';
import { SnapshotScanner } from './snapshot-scanner.ts';

const SIGN = /^\s*\{\s*"snapshot"\s*:\s*\{\s*"meta"/;

/** A heap snapshot that V8 wrote, `.heapsnapshot`: an inventory of every object, and no clock. */
export const v8Inventory: Format = {
  name: 'v8-inventory',
  words: "V8's heap snapshot (.heapsnapshot)",
  runtime: V8,
  detect: (headLines) => (SIGN.test(headLines[0] ?? '') ? 1 : 0),
  createParser: () => new V8InventoryParser(),
};

class V8InventoryParser implements FormatParser {
  private readonly parts = new SnapshotParts();
  private readonly scanner = new SnapshotScanner(this.parts);
  private recording: Recording | null = null;

  get runs(): readonly Recording[] {
    return this.recording === null ? [] : [this.recording];
  }

  write(chunk: Uint8Array): void {
    this.scanner.write(chunk);
  }

  end(): void {
    const { parts, scanner } = this;
    const graph = parts.graph();
    if (graph === null) return;
    const recording = (this.recording = new Recording('v8-inventory'));
    recording.addHeap('main', V8);
    recording.runtime = 'V8';
    recording.hasClock = false;
    recording.ended = true;
    recording.reach(INSTANT_MS);
    const cut = scanner.isWhole
      ? ''
      : 'it is cut off; its strings come last, so that names and references may be missing';
    const problem = parts.problem === '' ? cut : parts.problem;
    recording.inventories.push({
      graph,
      source: 'v8',
      takenEpochMs: NaN,
      heapId: 0,
      tMs: 0,
      pauseMs: NaN,
      sampled: NONE_SAMPLED,
      defects: problem === '' ? [] : [`The snapshot could not be read whole: ${problem}.`],
      notes: [],
    });
  }
}
