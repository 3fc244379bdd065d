import { Command, CommanderError } from 'commander';
import { NoSuchCommand } from './recording/child.ts';
import { ExitCode } from './exit-code.ts';

type CommandLoader = (root: string) => Promise<Command>;

/** Every command, by its name: only the one that is asked for is loaded. */
const COMMANDS: ReadonlyMap<string, CommandLoader> = new Map<string, CommandLoader>([
  ['record', async (root) => (await import('./commands/record.ts')).recordCommand(root)],
  ['attach', async (root) => (await import('./commands/attach.ts')).attachCommand(root)],
  ['follow', async (root) => (await import('./commands/follow.ts')).followCommand(root)],
  ['tell', async () => (await import('./commands/tell.ts')).tellCommand()],
  ['analyze', async () => (await import('./commands/analyze.ts')).analyzeCommand()],
  ['ask', async () => (await import('./commands/ask.ts')).askCommand()],
  ['compare', async () => (await import('./commands/compare.ts')).compareCommand()],
  ['inventory', async () => (await import('./commands/inventory.ts')).inventoryCommand()],
  ['history', async () => (await import('./commands/history.ts')).historyCommand()],
  ['events', async () => (await import('./commands/events.ts')).eventsCommand()],
  ['serve', async (root) => (await import('./commands/serve.ts')).serveCommand(root)],
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
  const asked = COMMANDS.get(argv[0] ?? '');
  // Of all of them where it is help that is asked for, or something that there is not.
  for (const load of asked === undefined ? COMMANDS.values() : [asked]) program.addCommand(await load(root));
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
