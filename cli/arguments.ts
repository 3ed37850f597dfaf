import { parseArgs, type ParseArgsConfig } from 'node:util';

/** The command was called wrongly: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

export const usage = `Usage:
  worvel index [SOURCE] --title NAME --build LABEL [--channel NAME] [--date ISO] [--replace] [--json]
               [--only GLOB]… [--without GLOB]… [--all] [--key NUMBER]… [--root FOLDER] [--platform NAME] [--threads N] [--priority N]
  worvel look SOURCE [--json]
  worvel key add --title NAME [--build LABEL]… [--form passphrase|hex|base64] [--remark TEXT] [--keep]
  worvel key list | remove NUMBER [--json]
  worvel diff   --title NAME --from LABEL --to LABEL [--channel NAME] [--evidence] [--json]
  worvel report --title NAME --from LABEL --to LABEL [--channel NAME] [--format md|json|html]
  worvel search --title NAME [--build LABEL] [--channel NAME] QUERY [--json]
  worvel lexicon export | import FILE --title NAME [--form csv|json]
  worvel publish --title NAME --out DIR
  worvel remove --title NAME --build LABEL [--channel NAME]
  worvel check [--json]
  worvel work
  worvel serve [--port N]
  worvel demo [publish] [--port N]
  worvel bench NAME [--json]
  worvel test
All take --data DIR (default .worvel/ in the checkout, or WORVEL_DATA).`;

type Options = NonNullable<ParseArgsConfig['options']>;

export interface Arguments {
  text(name: string): string | undefined;
  /** @throws UsageError when it is missing */
  needed(name: string): string;
  flag(name: string): boolean;
  /** All values of an option that may be said more than once. */
  list(name: string): string[];
  /** @throws UsageError when it is not a whole number in the range */
  count(name: string, lowest: number, highest: number): number | undefined;
  positionals: string[];
}

/** @throws UsageError for an option that the command lacks */
export function parseArguments(args: readonly string[], options: Options): Arguments {
  let values: Record<string, unknown>;
  let positionals: string[];
  try {
    ({ values, positionals } = parseArgs({
      args: [...args],
      options: { ...options, data: { type: 'string' }, json: { type: 'boolean' } },
      allowPositionals: true,
      strict: true,
    }));
  } catch (error) {
    throw new UsageError(error instanceof Error ? (error.message.split('\n')[0] ?? '') : String(error));
  }
  const text = (name: string): string | undefined => {
    const value = values[name];
    return typeof value === 'string' ? value : undefined;
  };
  return {
    positionals,
    text,
    needed(name) {
      const value = text(name);
      if (value === undefined || value.trim() === '') throw new UsageError(`--${name} is needed.`);
      return value;
    },
    flag: (name) => values[name] === true,
    list: (name) =>
      Array.isArray(values[name]) ? values[name].filter((value) => typeof value === 'string') : [],
    count(name, lowest, highest) {
      const value = text(name);
      if (value === undefined) return undefined;
      const number = Number(value);
      if (!Number.isInteger(number) || number < lowest || number > highest) {
        throw new UsageError(`--${name} must be a whole number from ${lowest} to ${highest}.`);
      }
      return number;
    },
  };
}

export const textOption = { type: 'string' } as const;
export const listOption = { type: 'string', multiple: true } as const;
export const flagOption = { type: 'boolean' } as const;
