import { UsageError, usage } from './arguments.ts';

/** Loaded only when called: a quick command must not wait for what the slow ones need. */
const commands: Record<string, () => Promise<(args: readonly string[]) => Promise<void>>> = {
  index: async () => (await import('./index-command.ts')).indexCommand,
  look: async () => (await import('./look-command.ts')).lookCommand,
  key: async () => (await import('./key-command.ts')).keyCommand,
  work: async () => (await import('./work-command.ts')).workCommand,
  check: async () => (await import('./check-command.ts')).checkCommand,
  remove: async () => (await import('./remove-command.ts')).removeCommand,
  diff: async () => (await import('./diff-command.ts')).diffCommand,
  report: async () => (await import('./report-command.ts')).reportCommand,
  search: async () => (await import('./search-command.ts')).searchCommand,
  lexicon: async () => (await import('./lexicon-command.ts')).lexiconCommand,
  publish: async () => (await import('./publish-command.ts')).publishCommand,
  serve: async () => (await import('./serve-command.ts')).serveCommand,
  demo: async () => (await import('./demo-command.ts')).demoCommand,
  bench: async () => (await import('./bench-command.ts')).benchCommand,
};

async function main(): Promise<number> {
  const [name = '', ...args] = process.argv.slice(2);
  if (name === 'help' || name === '--help' || args.includes('--help')) {
    process.stdout.write(`${usage}\n`);
    return 0;
  }
  try {
    const command = Object.hasOwn(commands, name) ? commands[name] : undefined;
    if (!command) throw new UsageError(name === '' ? 'A command is needed.' : `There is no command ${name}.`);
    await (
      await command()
    )(args);
    // A command that did its work and found something wrong says so by this.
    return Number(process.exitCode ?? 0);
  } catch (error) {
    if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
    if (error instanceof UsageError) {
      process.stderr.write(`${error.message}\n${usage}\n`);
      return 2;
    }
    const message = error instanceof Error ? error.message : String(error);
    process.stderr.write(`${message}\n`);
    if (process.env.WORVEL_DEBUG && error instanceof Error) process.stderr.write(`${error.stack ?? ''}\n`);
    return 1;
  }
}

const code = await main();
// A reader of a pipe may be slower than we are: leave when all is written.
process.stdout.write('', () => process.exit(code));
