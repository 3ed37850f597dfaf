import { builtInRules } from '../../core/findings/noise.ts';
import { compareContents } from '../../core/kinds/compare.ts';
import { readContent } from '../../core/kinds/read.ts';
import { requestOf } from '../../tests/support/compare.ts';
import type { Said, Side, Truth } from './truth.ts';

export interface Verdict {
  truth: Truth;
  /** `hidden`: a change that would be folded away; `noise`: nothing that would be shown; `false`: a sentence that is not true; `vague`: it leaves out what must be said, or a number is off. */
  verdict: 'right' | 'hidden' | 'noise' | 'false' | 'vague' | 'failed';
  nature: string;
  sentence: string;
  /** What is wrong with it. */
  reason: string;
}

/** Natures that are folded away unless somebody says otherwise. */
const folded: ReadonlySet<string> = new Set(
  builtInRules.flatMap(({ isOn, test }) => (isOn ? test.natures : [])),
);

/** Reads and compares two contents as two builds would have it, and holds what comes out against what is true. */
export async function judge(truth: Truth): Promise<Verdict> {
  const verdict = (kind: Verdict['verdict'], nature: string, sentence: string, reason = ''): Verdict => ({
    truth,
    verdict: kind,
    nature,
    sentence,
    reason,
  });
  try {
    const [old, now] = [sideOf(truth.old), sideOf(truth.now)];
    const prints = await Promise.all([old, now].map(fingerprintOf));
    const isRepacked = old.format === now.format && prints[0] !== null && prints[0] === prints[1];
    if (isRepacked && truth.is === 'changed')
      return verdict(
        'hidden',
        'repacked',
        'Other bytes, same decoded content.',
        'the fingerprints are the same',
      );
    if (isRepacked) return verdict('right', 'repacked', 'Other bytes, same decoded content.');
    const { comparison } = await compareContents(old, now);
    const { nature, sentence } = comparison;
    const isFolded = folded.has(nature);
    if (isFolded && truth.is === 'changed')
      return verdict('hidden', nature, sentence, 'it would be folded away');
    if (!isFolded && truth.is !== 'changed') return verdict('noise', nature, sentence, 'it would be shown');
    const untrue = (truth.never ?? []).find((pattern) => pattern.test(sentence));
    if (untrue) return verdict('false', nature, sentence, `it says ${untrue}`);
    const unsaid = (truth.says ?? []).find((pattern) => !pattern.test(sentence));
    if (unsaid) return verdict('vague', nature, sentence, `it does not say ${unsaid}`);
    for (const said of truth.numbers ?? []) {
      const number = numberIn(sentence, said);
      if (number === null) return verdict('vague', nature, sentence, `no number as ${said.pattern}`);
      if (Math.abs(number - said.value) > said.tolerance)
        return verdict(
          'false',
          nature,
          sentence,
          `${number} where ${said.value} ± ${said.tolerance} is right`,
        );
    }
    return verdict('right', nature, sentence);
  } catch (error) {
    return verdict('failed', '', '', error instanceof Error ? (error.stack ?? error.message) : String(error));
  }
}

function numberIn(sentence: string, { pattern }: Said): number | null {
  const text = pattern.exec(sentence)?.[1];
  return text === undefined ? null : Number(text.replaceAll(',', '').replace('−', '-'));
}

function sideOf({ bytes, path, files }: Side) {
  return requestOf({ bytes, path, resolve: (reference) => Promise.resolve(files?.[reference] ?? null) });
}

async function fingerprintOf({ format, request }: ReturnType<typeof sideOf>): Promise<string | null> {
  const { decoded, damage } = await readContent(format, request);
  return decoded && damage === null ? Buffer.concat(decoded).toString('base64') : null;
}
