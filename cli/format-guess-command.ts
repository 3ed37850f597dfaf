import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { fieldsOf, mostSamples, proposalsFor } from '../core/formats/guess/propose.ts';
import { tickedScore, type Proposal, type Sample } from '../core/formats/guess/proposal.ts';
import { offsetText } from '../core/formats/language/sheet-error.ts';
import { PlainError, messageOf } from '../server/platform/plain-error.ts';

/** Of each file as much is looked at. */
const mostBytes = 4 * 1024 * 1024;

/** Says what the bytes of files of one format say of it, and the fields of a sheet that follow from it. */
export function guessFormatCommand(files: readonly string[], { json }: { json?: boolean }): void {
  const proposals = proposalsFor(files.slice(0, mostSamples).map(sampleOf));
  if (json) {
    process.stdout.write(`${JSON.stringify({ files: Math.min(files.length, mostSamples), proposals })}\n`);
    return;
  }
  const print = (line: string): void => void process.stdout.write(`${line}\n`);
  if (files.length > mostSamples)
    print(`The first ${mostSamples} of ${files.length.toLocaleString('en')} files are looked at.`);
  if (files.length === 1) print('Several files of the format say far more than one.');
  if (proposals.length === 0) print('Nothing was found.');
  for (const proposal of proposals) print(lineOf(proposal));
  const fields = fieldsOf(proposals.filter(({ score }) => score >= tickedScore));
  if (fields !== '') print(`\nroot:\n${fields}`);
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
