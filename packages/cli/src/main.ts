import { Command, CommanderError } from 'commander';
import { NoSuchCommand } from './recording/child.ts';
import { ExitCode } from './exit-code.ts';

interface CommandEntry {
  /** What it does, in the list of all commands and above its own help. */
  readonly does: string;
  /** Gives the command its arguments, options and action, from a module that is loaded for it alone. */
  readonly fill: (command: Command, root: string) => Promise<void>;
}

/** Every command, by its name: only the one that is asked for is loaded. */
const COMMANDS: ReadonlyMap<string, CommandEntry> = new Map<string, CommandEntry>([
  [
    'record',
    {
      does: 'run a Node or Java program under recording, with nothing changed in it',
      fill: async (command, root) => (await import('./commands/record.ts')).recordCommand(command, root),
    },
  ],
  [
    'attach',
    {
      does: 'record a Node program or a JVM that runs already; Ctrl-C ends the recording and leaves the program running',
      fill: async (command, root) => (await import('./commands/attach.ts')).attachCommand(command, root),
    },
  ],
  [
    'follow',
    {
      does: 'send a GC log to the server as it grows, through its rotations; or what a recorder, started by other means, writes',
      fill: async (command, root) => (await import('./commands/follow.ts')).followCommand(command, root),
    },
  ],
  [
    'tell',
    {
      does: 'ask something of a program that is under recording: from a script, say, around one use case',
      fill: async (command) => (await import('./commands/tell.ts')).tellCommand(command),
    },
  ],
  [
    'analyze',
    {
      does: 'print the measures of a GC log or a recording; several files are the parts of one rotated log',
      fill: async (command) => (await import('./commands/analyze.ts')).analyzeCommand(command),
    },
  ],
  [
    'ask',
    {
      does: 'ask one measure of a GC log or a recording, as the page does; --list tells all of them',
      fill: async (command) => (await import('./commands/ask.ts')).askCommand(command),
    },
  ],
  [
    'compare',
    {
      does: 'say what changed from A to B, and whether it is better: two recordings or logs, or two spans of one',
      fill: async (command) => (await import('./commands/compare.ts')).compareCommand(command),
    },
  ],
  [
    'inventory',
    {
      does: 'say what stays in a heap and what keeps it: of a running JVM or Node program, or of a dump that it wrote',
      fill: async (command) => (await import('./commands/inventory.ts')).inventoryCommand(command),
    },
  ],
  [
    'history',
    {
      does: 'runs of a program over hours or days: recordings, logs, or a folder of them; parts of rotated logs find together',
      fill: async (command) => (await import('./commands/history.ts')).historyCommand(command),
    },
  ],
  [
    'events',
    {
      does: 'write every event of a recording or GC log as an Arrow IPC file that common data tools open; several files are the parts of one rotated log',
      fill: async (command) => (await import('./commands/events.ts')).eventsCommand(command),
    },
  ],
  [
    'serve',
    {
      does: 'serve the page and take recordings, for this user on this machine',
      fill: async (command, root) => (await import('./commands/serve.ts')).serveCommand(command, root),
    },
  ],
]);

/** Runs the command line; the promise settles when the command is over. */
export async function main(argv: readonly string[], root: string): Promise<void> {
  // Who reads what is printed may have had enough, as "head" has.
  process.stdout.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EPIPE') process.exit();
    throw error;
  });
  const program = new Command('heron').description(
    'Records what a program allocates and collects, and finds what makes its memory grow',
  );
  program.enablePositionalOptions();
  // The list of commands tells names alone: the arguments of most are not loaded.
  program.configureHelp({ subcommandTerm: (command) => command.name() });
  const asked = argv[argv[0] === 'help' ? 1 : 0];
  for (const [name, { does, fill }] of COMMANDS) {
    const command = program.command(name).description(does);
    if (name === asked) await fill(command, root);
  }
  program.exitOverride((error) => {
    process.exitCode = error.exitCode === 0 ? ExitCode.done : ExitCode.unusable;
    throw error;
  });
  try {
    await program.parseAsync([...argv], { from: 'user' });
  } catch (error) {
    if (error instanceof CommanderError) return;
    process.stderr.write(`heron: ${error instanceof Error ? error.message : String(error)}\n`);
    process.exitCode = error instanceof NoSuchCommand ? error.exitCode : ExitCode.failure;
  }
}
