import type { Command } from 'commander';
import { inventoryTimes } from './inventory-times.ts';
import type { JvmSettings } from './jvm-launch.ts';

/** What the command line lets one say of how a JVM is recorded. */
export interface JvmCommandOptions {
  readonly interval?: string;
  readonly name?: string;
  readonly own?: string;
  readonly cost?: string;
  readonly census?: boolean;
  readonly collect?: string;
  readonly collectAtMarks?: boolean;
  readonly birthsOff?: boolean;
  readonly inventoryAt?: readonly string[];
}

/** Adds the options that every command which records a JVM has. */
export function addJvmOptions(command: Command): Command {
  return command
    .option('--interval <bytes>', 'mean bytes between two samples (default: 65536 for Node, 524288 for Java)')
    .option('--name <name>', 'name of the program in lists')
    .option('--own <packages>', 'Java: packages of your own code, separated by commas (default: by the main class)')
    .option(
      '--cost <percent>',
      "Java: most of the program's CPU time to spend before the interval is widened; 0 never widens it (default: 3)",
    )
    .option(
      '--collect <seconds>',
      "Java: force a whole collection this often, so that the floor is known; marked as the recorder's own",
    )
    .option(
      '--collect-at-marks',
      'force a whole collection at every mark, so that what a round between two marks leaves is counted at its end',
    )
    .option(
      '--births-off',
      'tell no births until the page, "heron tell births on" or the program itself says so: for one use case of a long life',
    )
    .option(
      '--inventory-at <when>',
      'take an inventory of every object, for which the program stands still: at 90% of the heap\'s limit, "out-of-memory" (Java), or at every mark of this label; may be given several times',
      (when: string, before: readonly string[] = []) => [...before, when],
    )
    .option('--census', 'Java: at the end, collect once more and count the sampled objects that still live');
}

/** The options as settings. @throws when a number is none. */
export function jvmSettingsOf(options: JvmCommandOptions): Omit<JvmSettings, 'out' | 'control' | 'log'> {
  return {
    ...(options.name === undefined ? {} : { name: options.name }),
    ...(options.own === undefined
      ? {}
      : {
          own: options.own
            .split(',')
            .map((name) => name.trim())
            .filter((name) => name !== '')
            .map(asPrefix),
        }),
    ...(options.interval === undefined ? {} : { intervalBytes: numberOf('--interval', options.interval, 1, 2 ** 30) }),
    ...(options.cost === undefined ? {} : { costRatio: numberOf('--cost', options.cost, 0, 100) / 100 }),
    ...(options.collect === undefined ? {} : { collectMs: numberOf('--collect', options.collect, 0.1, 86_400) * 1000 }),
    ...(options.collectAtMarks === true ? { collectAtMarks: true } : {}),
    ...(options.birthsOff === true ? { birthsOff: true } : {}),
    ...(options.inventoryAt === undefined ? {} : { inventoryAt: inventoryTimes(options.inventoryAt) }),
    ...(options.census === true ? { census: true } : {}),
  };
}

// A package ends in its dot, so that org.saltmarsh is not org.saltmarshes; a class of no package stands for itself.
function asPrefix(name: string): string {
  return name.includes('.') && !name.endsWith('.') && !/\.[A-Z]/.test(name) ? `${name}.` : name;
}

function numberOf(option: string, text: string, least: number, most: number): number {
  const value = Number(text);
  if (!(value >= least && value <= most))
    throw new Error(`expected ${option} with a number from ${least} to ${most}, found "${text}"`);
  return value;
}
