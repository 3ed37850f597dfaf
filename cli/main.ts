import { CommanderError } from 'commander';
import { addCompletion } from './completion.ts';
import { createProgram } from './program.ts';
import { clearProgress } from './progress.ts';
import { UsageError } from './usage-error.ts';

async function main(): Promise<number> {
  const program = createProgram();
  addCompletion(program);
  try {
    if (process.argv.length <= 2) program.help({ error: true });
    await program.parseAsync();
    // A command that did its work and found something wrong says so by this.
    return Number(process.exitCode ?? 0);
  } catch (error) {
    clearProgress();
    // It has said what is wrong, or has printed the help that was asked for.
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
    if (error instanceof UsageError) {
      process.stderr.write(`${error.message}\n`);
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
