import { closeSync, openSync, readSync, statSync } from 'node:fs';

/** An inventory is wanted. */
export interface InventoryCommand {
  readonly do: 'inventory';
  /** Though memory or disk may be short. */
  readonly insist: boolean;
  /** Of every worker as well. */
  readonly workers: boolean;
  /** Objects keep their numbers until the next one, so that both can be compared one by one. */
  readonly ids: boolean;
}

/** What may be asked of a recorder while it runs, one JSON object a line. */
export type Command =
  | {
      readonly do: 'mark';
      readonly label: string;
      /** When it was set, by the wall clock; NaN when not told. */ readonly epochMs: number;
    }
  | { readonly do: 'births'; readonly on: boolean }
  | { readonly do: 'startOver' }
  | { readonly do: 'collect' }
  | InventoryCommand
  | { readonly do: 'stop' };

/**
 * Follows a file of commands that another process appends to. Reading costs one `stat` while nothing is new; never
 * throws.
 */
export class ControlFile {
  private readonly file: string;
  private offset = 0;

  constructor(file: string) {
    this.file = file;
  }

  /** Commands appended since the last call; a line that is none is passed over. */
  take(): Command[] {
    if (this.file === '') return [];
    try {
      const { size } = statSync(this.file);
      if (size <= this.offset) return [];
      return this.read(size);
    } catch {
      return [];
    }
  }

  private read(size: number): Command[] {
    const bytes = Buffer.alloc(size - this.offset);
    const fd = openSync(this.file, 'r');
    const got = readSync(fd, bytes, 0, bytes.length, this.offset);
    closeSync(fd);
    const end = bytes.subarray(0, got).lastIndexOf(10) + 1;
    this.offset += end;
    return bytes.subarray(0, end).toString('utf8').split('\n').flatMap(parseCommand);
  }
}

function parseCommand(line: string): Command[] {
  try {
    const value = JSON.parse(line) as {
      [name in 'do' | 'label' | 'epochMs' | 'on' | 'insist' | 'workers' | 'ids']?: unknown;
    };
    if (value.do === 'mark' && typeof value.label === 'string')
      return [
        {
          do: 'mark',
          label: value.label.slice(0, 200),
          epochMs: typeof value.epochMs === 'number' ? value.epochMs : NaN,
        },
      ];
    if (value.do === 'births') return [{ do: 'births', on: value.on !== false }];
    if (value.do === 'inventory') {
      const { insist, workers, ids } = value;
      return [{ do: 'inventory', insist: insist === true, workers: workers === true, ids: ids === true }];
    }
    return value.do === 'startOver' || value.do === 'collect' || value.do === 'stop' ? [{ do: value.do }] : [];
  } catch {
    return [];
  }
}
