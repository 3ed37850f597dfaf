import { InvalidArgumentError, Option } from 'commander';

/** What every command takes. */
export interface CommonOptions {
  data?: string;
}

/** Two builds of a channel, by name. */
export interface SpanOptions extends CommonOptions {
  title: string;
  channel: string;
  from: string;
  to: string;
}

/** Examples below a command's help: lines without the program's name. */
export function examples(lines: readonly string[]): string {
  return `\nExamples:\n${lines.map((line) => `  $ worvel ${line}`).join('\n')}`;
}

/** Something that must be said, and not left empty. */
export function needed(flags: string, description: string): Option {
  return new Option(flags, description).makeOptionMandatory().argParser((value: string) => {
    if (value.trim() === '') throw new InvalidArgumentError('It must not be empty.');
    return value;
  });
}

/** An option that may be given more than once. */
export function listOption(flags: string, description: string): Option {
  return new Option(flags, description)
    .argParser((value: string, before: string[]) => [...before, value])
    .default([], 'none');
}

/** A whole number of a range. */
export function countOption(flags: string, description: string, lowest: number, highest: number): Option {
  return new Option(flags, description).argParser((value: string) => {
    const number = Number(value);
    if (value.trim() === '' || !Number.isInteger(number) || number < lowest || number > highest)
      throw new InvalidArgumentError(`It must be a whole number from ${lowest} to ${highest}.`);
    return number;
  });
}

export const jsonFlag = ['--json', 'print JSON for programs'] as const;
export const titleOption = (): Option => needed('--title <name>', 'the game');
export const channelOption = (): Option =>
  new Option('--channel <name>', 'the line of builds').default('main');
