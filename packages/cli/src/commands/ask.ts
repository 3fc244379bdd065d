import { askMeasure, measureOf, lacksFor, MEASURES } from '@brisk-heron/core';
import type { Command } from 'commander';
import { ExitCode } from '../exit-code.ts';
import { addStudyOptions, sideOf, studyOf, type StudyOptions } from '../input/study-options.ts';
import { readUsable } from '../read-usable.ts';
import { listMeasures } from '../render/measure-list.ts';
import { plainAnswer } from '../render/plain-answer.ts';
import { renderTable } from '../render/table.ts';

const ANSWER_SCHEMA = 'brisk-heron/answer@1';

interface AskOptions extends StudyOptions {
  readonly measure?: string;
  readonly charge?: string;
  readonly find?: string;
  readonly by?: string;
  readonly age?: string;
  readonly set?: string[];
  readonly json?: boolean;
  readonly list?: boolean;
}

/** `heron ask FILE… --measure NAME`: the answer of any measure, as the page gets it. */
export function askCommand(command: Command): void {
  command
    .argument('[files...]', 'files, plain or gzip')
    .option('--measure <name>', 'the measure: --list names them')
    .option('--charge <key>', 'what allocations are charged to: ownFrame, site, function, file, package, type, …')
    .option('--find <text>', 'what stands in the find field')
    .option('--by <what>', 'what lives are weighted by: bytes or objects')
    .option('--age <kind>', 'what age is counted in: seconds, collections or allocated')
    .option(
      '--set <name=value>',
      "anything else of the measure's ask, the value as JSON or text; several times",
      collect,
    )
    .option('--json', `one JSON object, ${ANSWER_SCHEMA}, instead of a table`)
    .option('--list', 'name every measure with what may be asked of it');
  addStudyOptions(command).action(ask);
}

async function ask(files: readonly string[], options: AskOptions): Promise<void> {
  if (options.list === true) {
    process.stdout.write(listMeasures(Object.values(MEASURES)));
    return;
  }
  const name = options.measure ?? '';
  const measure = measureOf(name);
  if (measure === undefined)
    return refuse(`expected --measure with one of ${Object.keys(MEASURES).join(', ')}, found "${name}"`);
  if (files.length === 0) return refuse('expected a file: a GC log or a recording');
  const read = await readUsable(files);
  if (read === null) return;
  const study = studyOf(read, options);
  const side = sideOf(options);
  const asked = askOf(options);
  let answer: unknown;
  let lacks: string;
  try {
    answer = askMeasure(study, side, name, asked);
    lacks = lacksFor(measure.needs, study.run(side.run));
  } catch (error) {
    return refuse(error instanceof Error ? error.message : String(error));
  }
  if (lacks !== '') process.stderr.write(`heron: ${files.join(', ')}: ${lacks}\n`);
  if (options.json === true || measure.table === null) {
    const { settings } = study;
    const about = { measure: name, side, settings, ask: asked };
    const { contract } = measure;
    const told =
      contract === null
        ? { schema: ANSWER_SCHEMA, ...about, answer: plainAnswer(answer) }
        : { schema: contract.schema, ...(plainAnswer(contract.of(answer as never)) as object), ...about };
    process.stdout.write(`${JSON.stringify(told, null, options.json === true ? undefined : 2)}\n`);
  } else process.stdout.write(renderTable(measure.table, answer));
}

// Values that are no JSON are text.
function askOf({ charge, find, by, age, set = [] }: AskOptions): Readonly<Partial<Record<'charge' | 'find', unknown>>> {
  const given = set.map((each): [string, unknown] => {
    const [name, value] = [each.slice(0, each.indexOf('=')), each.slice(each.indexOf('=') + 1)];
    if (!each.includes('=')) throw new Error(`expected --set with name=value, found "${each}"`);
    return [name, jsonOr(value)];
  });
  return {
    ...(charge === undefined ? {} : { charge }),
    ...(find === undefined ? {} : { find }),
    ...(by === undefined ? {} : { by }),
    ...(age === undefined ? {} : { age }),
    ...Object.fromEntries(given),
  };
}

function jsonOr(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return text;
  }
}

function refuse(message: string): void {
  process.stderr.write(`heron: ${message}\n`);
  process.exitCode = ExitCode.unusable;
}

function collect(value: string, values: string[] = []): string[] {
  return [...values, value];
}
