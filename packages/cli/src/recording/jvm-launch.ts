import { basename } from 'node:path';
import type { InventoryTimes } from './inventory-times.ts';
import { jvmLogFile } from './jvm-log-files.ts';

/** How a JVM is recorded; what is missing is the agent's default. */
export interface JvmSettings {
  /** File that lines are appended to. */
  readonly out: string;
  /** File that commands are read from; '' for none. */
  readonly control: string;
  /** File of the collector's log, `%p` for the process id. */
  readonly log: string;
  readonly name?: string;
  /** Packages of the engineer's own code. */
  readonly own?: readonly string[];
  readonly intervalBytes?: number;
  /** Most of the program's CPU time to spend, as a ratio; 0 never adapts the interval. */
  readonly costRatio?: number;
  /** Force a whole collection this often, in milliseconds. */
  readonly collectMs?: number;
  /** Tell no births until told to. */
  readonly birthsOff?: boolean;
  /** Force a whole collection at every mark. */
  readonly collectAtMarks?: boolean;
  /** When inventories are taken without being asked for. */
  readonly inventoryAt?: InventoryTimes;
  /** Collect and count the sampled objects that still live, at the end. */
  readonly census?: boolean;
}

/** What `-agentpath:LIBRARY=` is followed by. */
export function agentOptions(settings: JvmSettings): string {
  const options: [string, string | undefined][] = [
    ['out', settings.out],
    ['control', settings.control === '' ? undefined : settings.control],
    ['log', settings.log],
    ['name', settings.name],
    ['own', settings.own?.join(';')],
    ['interval', settings.intervalBytes?.toString()],
    ['cost', settings.costRatio === undefined ? undefined : String(Math.round(settings.costRatio * 1e6))],
    ['collect', settings.collectMs === undefined ? undefined : String(Math.round(settings.collectMs))],
    ['births', settings.birthsOff === true ? '0' : undefined],
    ['atmarks', settings.collectAtMarks === true ? '1' : undefined],
    ['invmark', settings.inventoryAt?.mark || undefined],
    ['invpercent', (settings.inventoryAt?.percent || undefined)?.toString()],
    ['invend', settings.inventoryAt?.outOfMemory === true ? '1' : undefined],
    ['census', settings.census === true ? '1' : undefined],
  ];
  return options
    .flatMap(([key, value]) => (value === undefined ? [] : [`${key}=${escapeValue(value, key === 'log')}`]))
    .join(',');
}

/** Decorations that put the log on the recorder's clock, with the uptime for people. */
export const LOG_DECORATIONS = 'uptime,timenanos,level,tags';

/** The JVM's options under which it is recorded. */
export function jvmOptions(library: string, settings: JvmSettings): string[] {
  const file = /[:,\s]/.test(settings.log) ? `"${settings.log}"` : settings.log;
  // Told that memory has run out, the JVM prints an error about telling it, into the program's own output.
  return [
    `-agentpath:${library}=${agentOptions(settings)}`,
    `-Xlog:gc*:file=${file}:${LOG_DECORATIONS}:filecount=0`,
    '-Xlog:jvmti=off',
  ];
}

/** True for a command that starts a JVM itself. */
export function isJava(command: readonly string[]): boolean {
  return /^java(?:\.exe)?$/.test(basename(command[0] ?? ''));
}

/** The same command with the JVM's options put in front of its own, so that those win. */
export function recordedJavaCommand(command: readonly string[], library: string, settings: JvmSettings): string[] {
  return [command[0]!, ...jvmOptions(library, settings), ...command.slice(1)];
}

/** Environment in which every JVM that a script starts is recorded. */
export function jvmEnvironment(
  environment: NodeJS.ProcessEnv,
  library: string,
  settings: JvmSettings,
): NodeJS.ProcessEnv {
  const options = jvmOptions(library, settings)
    .map((option) => (/\s/.test(option) ? `'${option}'` : option))
    .join(' ');
  const given = environment['JAVA_TOOL_OPTIONS'];
  return { ...environment, JAVA_TOOL_OPTIONS: given === undefined || given === '' ? options : `${given} ${options}` };
}

/** Settings for a JVM whose recording goes to a spool. */
export function spoolSettings(
  spool: string,
  control: string,
  more: Omit<JvmSettings, 'out' | 'control' | 'log'>,
): JvmSettings {
  return { out: spool, control, log: jvmLogFile(spool), ...more };
}

// The agent reads %XX; what separates options or words must not appear as itself.
function escapeValue(value: string, keepPid: boolean): string {
  const escaped = value
    .replace(/%/g, '%25')
    .replace(/[,\s"'\\]/g, (one) => `%${one.charCodeAt(0).toString(16).toUpperCase().padStart(2, '0')}`);
  return keepPid ? escaped.replaceAll('%25p', '%p') : escaped;
}
