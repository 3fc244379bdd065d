import { analysisReport } from '@brisk-heron/core';
import type { Command } from 'commander';
import { addStudyOptions, sideOf, studyOf, type StudyOptions } from '../input/study-options.ts';
import { readUsable } from '../read-usable.ts';
import { renderText } from '../render/text.ts';

/** `heron analyze FILE…`: the measures of a log or a recording. */
export function analyzeCommand(command: Command): void {
  command
    .argument('<files...>', 'files, plain or gzip')
    .option('--json', 'one JSON object, brisk-heron/analysis@1, instead of text');
  addStudyOptions(command).action(analyze);
}

async function analyze(files: readonly string[], options: StudyOptions & { json?: boolean }): Promise<void> {
  const read = await readUsable(files);
  if (read === null) return;
  const study = studyOf(read, options);
  const { recording, span } = study.side(sideOf(options));
  const report = analysisReport(recording, options.run === undefined ? study.runs : [], span);
  const named = read.exported
    ? { ...report, source: { ...report.source, format: 'recording', contains: report.source.format } }
    : report;
  process.stdout.write(options.json === true ? `${JSON.stringify(named)}\n` : renderText(report));
}
