import { createWriteStream } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Recording } from '@brisk-heron/core';
import type { Command } from 'commander';
import { studyOf } from '../input/study-options.ts';
import { readUsable } from '../read-usable.ts';

/** `heron events FILE…`: a recording's events as Arrow files. */
export function eventsCommand(command: Command): void {
  command
    .argument('<files...>', 'files, plain or gzip')
    .requiredOption('--out <file>', 'file for the events')
    .option('--paths <file>', 'file for the call paths that the events point to')
    .action(writeEvents);
}

async function writeEvents(files: readonly string[], options: { out: string; paths?: string }): Promise<void> {
  const read = await readUsable(files);
  if (read === null) return;
  const recording = studyOf(read).run();
  // Loaded when it is needed alone.
  const { eventsArrow, pathsArrow } = await import('@brisk-heron/core/events-arrow');
  await save(eventsArrow(recording), options.out);
  if (options.paths !== undefined) await save(pathsArrow(recording), options.paths);
  process.stderr.write(`heron: ${options.out} has ${eventCount(recording)} events\n`);
}

async function save(pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>, file: string): Promise<void> {
  await pipeline(Readable.from(pieces, { objectMode: true }), createWriteStream(file));
}

function eventCount({ tables: { objects, flows, collections, pauses, marks } }: Recording): string {
  return (objects.length + flows.length + collections.length + pauses.length + marks.length).toLocaleString('en');
}
