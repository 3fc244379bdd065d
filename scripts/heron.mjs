/** The command line, from a clone: sets up quietly when something is missing, then runs it. */
import { build, install, root } from './bootstrap.mjs';

const args = process.argv.slice(2);
try {
  install();
  build({ page: args[0] === 'serve' || (args[0] === 'record' && !args.includes('--out')) });
} catch (error) {
  process.stderr.write(`heron: setting up failed: ${error.message}\n`);
  process.exit(1);
}
const { main } = await import('../packages/cli/dist/bundle/index.js');
await main(args, root);
