/** How one isolate is recorded. */
export interface RecorderSettings {
  /** File that lines are appended to. */
  readonly out: string;
  /** File that commands are read from; '' for none. */
  readonly control: string;
  /** Mean sampling interval in bytes. */
  readonly intervalBytes: number;
  /** Whether a wider interval may be taken where the program allocates without pause; not where this one was asked for. */
  readonly mayWiden: boolean;
  /** Length of the births phase in milliseconds. */
  readonly birthsMs: number;
  /** Tell no births until a command or the program says so. */
  readonly birthsOff: boolean;
  /** Least time between two whole collections that the recorder forces, so that the floor is known; 0 for none. */
  readonly floorEveryMs: number;
  /** Most of the processor time that forcing them may take. */
  readonly floorShareRatio: number;
  /** Look at the survivors at every mark as well, so that rounds between marks are counted at their ends. */
  readonly collectAtMarks: boolean;
  /** Take an inventory at every mark of this label; '' for none. */
  readonly inventoryMark: string;
  /** Take one when what is left after a collection reaches so much of the limit; 0 for never. */
  readonly inventoryPercent: number;
  /** Switch off the optimisations that book allocations under the wrong function. */
  readonly exact: boolean;
  /** Pass on excerpts of the program's source. */
  readonly source: boolean;
  /** Follow what Buffer and ArrayBuffer hold outside the heap. */
  readonly outside: boolean;
  /** Use the addon where there is one for this Node. */
  readonly native: boolean;
  /** What the recording is to be called; '' for what runs. */
  readonly name: string;
  /** The program ran already when recording began. */
  readonly attached: boolean;
  /** What was started, for a process that cannot tell. */
  readonly program: string;
}

/** Name of the environment variable that carries the settings to the recorded program and its children. */
export const SETTINGS_VARIABLE = 'BRISK_HERON_RECORD';

/**
 * Poisson sampling at 64 KiB: 3 % cost on a mixed load, errors of a few percent for sites of 10 MB
 * (docs/recording-node.md).
 */
export const DEFAULT_INTERVAL_BYTES = 64 * 1024;
/** Length of the phase that sees every birth, without the addon. */
export const DEFAULT_BIRTHS_MS = 5000;
/** Least time between two forced collections. */
export const DEFAULT_FLOOR_EVERY_MS = 2000;
/** Most of the time that forced collections may take. */
export const DEFAULT_FLOOR_SHARE_RATIO = 0.02;

/** Settings from the environment; null when the program is not to be recorded or they cannot be read. */
export function readSettings(text: string | undefined): RecorderSettings | null {
  if (text === undefined || text === '') return null;
  try {
    const given = JSON.parse(text) as Partial<RecorderSettings>;
    if (typeof given.out !== 'string' || given.out === '') return null;
    return {
      out: given.out,
      control: given.control ?? '',
      intervalBytes: positive(given.intervalBytes, DEFAULT_INTERVAL_BYTES),
      mayWiden: given.mayWiden === true,
      birthsMs: positive(given.birthsMs, DEFAULT_BIRTHS_MS),
      birthsOff: given.birthsOff === true,
      floorEveryMs: given.floorEveryMs === 0 ? 0 : positive(given.floorEveryMs, DEFAULT_FLOOR_EVERY_MS),
      floorShareRatio: positive(given.floorShareRatio, DEFAULT_FLOOR_SHARE_RATIO),
      collectAtMarks: given.collectAtMarks === true,
      inventoryMark: given.inventoryMark ?? '',
      inventoryPercent: positive(given.inventoryPercent, 0),
      exact: given.exact === true,
      source: given.source !== false,
      outside: given.outside !== false,
      native: given.native !== false,
      name: given.name ?? '',
      attached: given.attached === true,
      program: given.program ?? '',
    };
  } catch {
    return null;
  }
}

function positive(value: number | undefined, fallback: number): number {
  return typeof value === 'number' && value > 0 ? value : fallback;
}
