import createCompletion from '@bomb.sh/tab/commander';
import type { Command } from 'commander';

/** `worvel completion bash` (or zsh, fish) prints what the shell needs to complete commands and options. */
export function addCompletion(program: Command): void {
  createCompletion(program, { completionCommandName: 'completion' });
  program.commands
    .find((command) => command.name() === 'completion')
    ?.description('Print what a shell needs to complete commands and options.')
    .addHelpText(
      'after',
      '\nExamples:\n  $ source <(worvel completion bash)\n  $ worvel completion fish > ~/.config/fish/completions/worvel.fish',
    );
}
