import type { Notebook } from '../formats/recording-file/notebook.ts';
import type { Recording } from '../model/recording.ts';

/** What holds for every answer about a study: typed by the engineer, on the page or the command line. */
export interface Settings {
  /** The limit that growth is held against, in bytes; null for the runtime's. */
  readonly limitBytes: number | null;
  /** Null for the settle time that the lifetimes suggest, in milliseconds. */
  readonly settleMs: number | null;
  /** Rules for own code (model/own-frame.ts); null for the source's. */
  readonly ownRules: readonly string[] | null;
}

/** The settings that a notebook makes; each of `over` that is given stands instead. */
export function settingsOf(notebook: Notebook, over: Partial<Settings> = {}): Settings {
  const { limitBytes, settleMs, ownRules } = notebook;
  const given = Object.entries(over).filter(([, value]) => value !== undefined);
  return { limitBytes, settleMs, ownRules, ...Object.fromEntries(given) };
}

/** Lets settings hold for a run and whatever is computed of it. */
export function applySettings(recording: Recording, { limitBytes, settleMs, ownRules }: Settings): void {
  recording.givenLimitBytes = limitBytes ?? NaN;
  recording.givenSettleMs = settleMs ?? NaN;
  recording.givenOwnRules = ownRules;
}
