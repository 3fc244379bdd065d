import { statSync, writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import {
  DEFAULT_BIRTHS_MS,
  DEFAULT_FLOOR_EVERY_MS,
  DEFAULT_FLOOR_SHARE_RATIO,
  DEFAULT_INTERVAL_BYTES,
  type RecorderSettings,
} from '@brisk-heron/recorder-node';
import type { Command } from 'commander';
import { Option } from 'commander';
import { type ChildEnd, endLike, runChild } from '../recording/child.ts';
import { addInventories, removeUnfinished } from '../recording/inventory-files.ts';
import { inventoryTimes } from '../recording/inventory-times.ts';
import { agentAtHand, ensureAgent } from '../recording/jvm-agent.ts';
import { isJava, jvmEnvironment, recordedJavaCommand, spoolSettings } from '../recording/jvm-launch.ts';
import { addLeftoverLogs, removeLogs } from '../recording/jvm-log-files.ts';
import { addJvmOptions, type JvmCommandOptions, jvmSettingsOf } from '../recording/jvm-options.ts';
import { ensureAddon } from '../recording/node-addon.ts';
import { completed, NOBODY_SPOKE, say, sendWhile } from '../recording/outgoing.ts';
import { asCommand, isNode, programName, recorderEnvironment } from '../recording/recorder-environment.ts';
import { type Destination, takeFile } from '../recording/spool.ts';

interface RecordOptions extends JvmCommandOptions {
  readonly out?: string;
  readonly server?: string;
  readonly births: string;
  readonly poll?: string;
  readonly floorEvery?: string;
  readonly outside: boolean;
  readonly addon: boolean;
  readonly exact?: boolean;
  readonly source: boolean;
  readonly id?: string;
  readonly jvm?: boolean;
}

/** `heron record -- node app.js`, `heron record -- java -jar app.jar`: runs a program under recording. */
export function recordCommand(command: Command, root: string): void {
  command
    .argument('<command...>', 'the program and its arguments, after --')
    .option('--out <file>', 'record to a file, with no server and no page')
    .option('--server <address>', 'server to send to (default: the one on this machine, started when there is none)')
    .option('--id <id>', 'id of the stream on the server, else made from the time')
    .option(
      '--floor-every <ms>',
      `Node: least time between two whole collections that the recorder forces, so that the floor is known; 0 for none (default: ${DEFAULT_FLOOR_EVERY_MS})`,
    )
    .option('--no-outside', 'Node: do not follow what Buffer and ArrayBuffer hold outside the heap')
    .option('--no-addon', 'Node: record through the inspector, which sees less')
    .option(
      '--births <ms>',
      'Node, without the addon: length of the phase that sees every birth',
      String(DEFAULT_BIRTHS_MS),
    )
    .addOption(new Option('--poll <ms>', 'older name of --floor-every').hideHelp())
    .option('--exact', 'Node: switch off the optimisations that book allocations under the caller; slows churn')
    .option('--no-source', 'Node: keep excerpts of the source out of the recording')
    .option(
      '--jvm',
      'Java: insist that the JVMs that a script or build tool starts are recorded (through JAVA_TOOL_OPTIONS); where they can be, they are without it',
    );
  addJvmOptions(command)
    .passThroughOptions()
    .action((words: string[], options: RecordOptions) => record(asCommand(words), options, root));
}

async function record(command: readonly string[], options: RecordOptions, root: string): Promise<void> {
  if (options.addon && !isJava(command)) {
    const addon = ensureAddon(root, command);
    if (addon.file === null)
      say(
        `the recorder's addon cannot be used (${addon.why}); recording through the inspector, which sees less: docs/recording-node.md`,
      );
  }
  const library =
    isJava(command) || options.jvm === true
      ? ensureAgent(root, isJava(command) ? command[0]! : null)
      : agentAtHand(root, !isNode(command));
  const make = (to: Destination): Promise<ChildEnd> => run(command, options, library, to);
  endLike(
    options.out === undefined
      ? await sendWhile({ ...options, what: programName(command), root }, make)
      : await recordToFile(resolve(options.out), make),
  );
}

async function recordToFile(spool: string, make: (to: Destination) => Promise<ChildEnd>): Promise<ChildEnd> {
  const held = takeFile(spool);
  try {
    writeFileSync(spool, '');
    const end = await make({ spool, control: '' });
    await completed(() => addLeftoverLogs(spool));
    await completed(() => addInventories(spool, say));
    removeUnfinished(spool);
    await removeLogs(spool);
    if (statSync(spool, { throwIfNoEntry: false })?.size === 0) say(NOBODY_SPOKE);
    return end;
  } finally {
    held.release();
  }
}

// Whatever runtimes the command starts are recorded: each takes what is meant for it out of the environment.
function run(
  command: readonly string[],
  options: RecordOptions,
  library: string | null,
  to: Destination,
): Promise<ChildEnd> {
  const environment = recorderEnvironment(process.env, nodeSettings(command, options, to));
  if (library === null) return runChild(command, environment);
  const settings = spoolSettings(to.spool, to.control, jvmSettingsOf(options));
  if (isJava(command)) return runChild(recordedJavaCommand(command, library, settings), environment);
  return runChild(command, jvmEnvironment(environment, library, settings));
}

function nodeSettings(command: readonly string[], options: RecordOptions, to: Destination): RecorderSettings {
  const inventories = inventoryTimes(options.inventoryAt);
  return {
    out: to.spool,
    control: to.control,
    intervalBytes: options.interval === undefined ? DEFAULT_INTERVAL_BYTES : Number(options.interval),
    mayWiden: options.interval === undefined,
    birthsMs: Number(options.births),
    floorEveryMs: milliseconds(options.floorEvery ?? options.poll, DEFAULT_FLOOR_EVERY_MS),
    floorShareRatio: DEFAULT_FLOOR_SHARE_RATIO,
    birthsOff: options.birthsOff === true,
    collectAtMarks: options.collectAtMarks === true,
    inventoryMark: inventories.mark,
    inventoryPercent: inventories.percent,
    exact: options.exact === true,
    source: options.source,
    outside: options.outside,
    native: options.addon,
    attached: false,
    name: options.name ?? (programName(command) === 'node --test' ? 'node --test' : ''),
    program: programName(command),
  };
}

function milliseconds(text: string | undefined, fallback: number): number {
  if (text === undefined) return fallback;
  const value = Number(text);
  if (!(value >= 0 && value <= 86_400_000))
    throw new Error(`expected --floor-every with milliseconds from 0 to 86400000, found "${text}"`);
  return value;
}
