import { INSTANT_MS } from '../../model/heap-graph.ts';
import { Recording } from '../../model/recording.ts';
import { JVM } from '../../runtimes/jvm.ts';
import type { Format, FormatParser } from '../log-parser.ts';
import { graphOf } from './dump-graph.ts';
import { DumpReader } from './dump-reader.ts';

/** A JVM's own heap dump, `.hprof`: an inventory of every object, and no clock. */
export const jvmInventory: Format = {
  name: 'jvm-inventory',
  words: "a JVM's heap dump (.hprof)",
  runtime: JVM,
  detect: (headLines) => (headLines[0]?.startsWith('JAVA PROFILE 1.0') === true ? 1 : 0),
  createParser: () => new JvmInventoryParser(),
};

class JvmInventoryParser implements FormatParser {
  private readonly reader = new DumpReader();
  private recording: Recording | null = null;

  get runs(): readonly Recording[] {
    return this.recording === null ? [] : [this.recording];
  }

  write(chunk: Uint8Array): void {
    this.reader.write(chunk);
  }

  end(): void {
    const { reader } = this;
    reader.end();
    if (reader.parts.address.length === 0) return;
    const { graph, layout, sampled } = graphOf(reader);
    const recording = (this.recording = new Recording('jvm-inventory'));
    recording.addHeap('main', JVM);
    recording.runtime = 'OpenJDK';
    recording.hasClock = false;
    recording.ended = true;
    recording.reach(INSTANT_MS);
    recording.startEpochMs = reader.takenAtMs;
    const defects = [
      ...(reader.problem === ''
        ? []
        : [`The dump is read up to a defect: ${reader.problem}. What follows is not in it.`]),
      ...(reader.unread === 0
        ? []
        : [
            `Of ${reader.unread.toLocaleString('en')} objects the class did not come, so what they refer to is not known.`,
          ]),
    ];
    const words = `Sizes by this layout: ${layout.header} bytes a header, ${layout.reference} a reference, addresses by ${layout.alignment}.`;
    recording.inventories.push({
      graph,
      source: 'jvm',
      takenEpochMs: reader.takenAtMs,
      heapId: 0,
      tMs: 0,
      pauseMs: NaN,
      sampled,
      defects,
      notes: [words],
    });
  }
}
