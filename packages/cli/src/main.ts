import { Command, CommanderError } from 'commander';
import { analyzeCommand } from './commands/analyze.ts';
import { askCommand } from './commands/ask.ts';
import { attachCommand } from './commands/attach.ts';
import { compareCommand } from './commands/compare.ts';
import { eventsCommand } from './commands/events.ts';
import { followCommand } from './commands/follow.ts';
import { historyCommand } from './commands/history.ts';
import { inventoryCommand } from './commands/inventory.ts';
import { recordCommand } from './commands/record.ts';
import { serveCommand } from './commands/serve.ts';
import { tellCommand } from './commands/tell.ts';
import { NoSuchCommand } from './recording/child.ts';
import { ExitCode } from './exit-code.ts';

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
  program.addCommand(recordCommand(root));
  program.addCommand(attachCommand(root));
  program.addCommand(followCommand(root));
  program.addCommand(tellCommand());
  program.addCommand(analyzeCommand());
  program.addCommand(askCommand());
  program.addCommand(compareCommand());
  program.addCommand(inventoryCommand());
  program.addCommand(historyCommand());
  program.addCommand(eventsCommand());
  program.addCommand(serveCommand(root));
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
