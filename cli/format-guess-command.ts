import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { basename } from 'node:path';
import { formatChanges, type SamplePair } from '../core/formats/guess/format-changes.ts';
import { fieldsOf, mostSamples, proposalsFor } from '../core/formats/guess/propose.ts';
import { tickedScore, type Proposal, type Sample } from '../core/formats/guess/proposal.ts';
import { offsetText } from '../core/formats/language/sheet-error.ts';
import { PlainError, messageOf } from '../server/platform/plain-error.ts';

/** Of each file as much is looked at. */
const mostBytes = 4 * 1024 * 1024;

export interface GuessOptions {
  json?: boolean;
  before?: string[];
}

/** Says what the bytes of files of one format say of it, and the fields of a sheet that follow from it. */
export function guessFormatCommand(files: readonly string[], { json, before }: GuessOptions): void {
  const changes = before && formatChanges(pairsOf(before, files));
  const proposals = proposalsFor(files.slice(0, mostSamples).map(sampleOf));
  if (json) {
    process.stdout.write(
      `${JSON.stringify({ files: Math.min(files.length, mostSamples), proposals, ...(changes && { changes }) })}\n`,
    );
    return;
  }
  const print = (line: string): void => void process.stdout.write(`${line}\n`);
  if (files.length > mostSamples)
    print(`The first ${mostSamples} of ${files.length.toLocaleString('en')} files are looked at.`);
  if (files.length === 1) print('Several files of the format say far more than one.');
  if (proposals.length === 0) print('Nothing was found.');
  for (const proposal of proposals) print(lineOf(proposal));
  if (changes) {
    print(changes.length === 0 ? '\nThe format is as it was.' : '\nSince then:');
    for (const { at, says } of changes) print(`      ${offsetText(at).padEnd(9)}${says}`);
  }
  const fields = fieldsOf(proposals.filter(({ score }) => score >= tickedScore));
  if (fields !== '') print(`\nroot:\n${fields}`);
}

/** Files of one name. @throws PlainError where there are none */
function pairsOf(before: readonly string[], files: readonly string[]): SamplePair[] {
  const older = new Map(before.map((path) => [basename(path), path]));
  const pairs = files.flatMap((path) => {
    const old = older.get(basename(path));
    return old === undefined ? [] : [{ old: sampleOf(old), now: sampleOf(path) }];
  });
  if (pairs.length === 0) throw new PlainError('No file of the older build has the name of one of these.');
  return pairs;
}

function lineOf({ kind, at, score, says }: Proposal): string {
  const place = kind === 'order' ? '' : offsetText(at);
  return `${score.toFixed(2)}  ${kind.padEnd(9)}${place.padEnd(9)}${says}`;
}

function sampleOf(path: string): Sample {
  try {
    const file = openSync(path, 'r');
    try {
      const status = fstatSync(file);
      if (!status.isFile()) throw new Error('it is no file');
      const bytes = Buffer.alloc(Math.min(status.size, mostBytes));
      let read = 0;
      while (read < bytes.length) {
        const more = readSync(file, bytes, read, bytes.length - read, read);
        if (more === 0) break;
        read += more;
      }
      return { bytes: bytes.subarray(0, read), size: status.size };
    } finally {
      closeSync(file);
    }
  } catch (error) {
    throw new PlainError(`${path} cannot be read: ${messageOf(error)}`);
  }
}
