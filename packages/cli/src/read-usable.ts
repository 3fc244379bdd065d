import type { Recording } from '@brisk-heron/core';
import { ExitCode } from './exit-code.ts';
import { readFiles, type FilesResult } from './input/read-files.ts';

/** Reads files and says on stderr what is wrong with them; null, with the exit code set, where nothing can be used. */
export async function readUsable(
  files: readonly string[],
): Promise<(FilesResult & { readonly runs: readonly Recording[] }) | null> {
  let read;
  try {
    read = await readFiles(files);
  } catch (error) {
    return refuse(`cannot read the input: ${error instanceof Error ? error.message : String(error)}`);
  }
  for (const warning of read.warnings) process.stderr.write(`heron: ${warning}\n`);
  if (!read.result.ok) return refuse(`${files.join(', ')}: ${read.result.message}`);
  return { ...read, runs: read.result.runs };
}

function refuse(message: string): null {
  process.stderr.write(`heron: ${message}\n`);
  process.exitCode = ExitCode.unusable;
  return null;
}
