import { Command } from 'commander';
import { analysisReport } from '@brisk-heron/core';
import { readFiles } from '../input/read-files.ts';
import { ExitCode } from '../exit-code.ts';
import { renderText } from '../render/text.ts';

/** `heron analyze FILE…`: the measures of a log or a recording. */
export function analyzeCommand(): Command {
  return new Command('analyze')
    .description('print the measures of a GC log or a recording; several files are the parts of one rotated log')
    .argument('<files...>', 'files, plain or gzip')
    .option('--json', 'one JSON object, brisk-heron/analysis@1, instead of text')
    .action(analyze);
}

async function analyze(files: readonly string[], options: { json?: boolean }): Promise<void> {
  let read;
  try {
    read = await readFiles(files);
  } catch (error) {
    process.stderr.write(`heron: cannot read the input: ${error instanceof Error ? error.message : String(error)}\n`);
    process.exitCode = ExitCode.unusable;
    return;
  }
  for (const warning of read.warnings) process.stderr.write(`heron: ${warning}\n`);
  if (!read.result.ok) {
    process.stderr.write(`heron: ${files.join(', ')}: ${read.result.message}\n`);
    process.exitCode = ExitCode.unusable;
    return;
  }
  const { runs } = read.result;
  const report = analysisReport(runs[runs.length - 1]!, runs);
  const named = read.exported ? { ...report, source: { ...report.source, format: 'recording', contains: report.source.format } } : report;
  process.stdout.write(options.json === true ? `${JSON.stringify(named)}\n` : renderText(report));
}
