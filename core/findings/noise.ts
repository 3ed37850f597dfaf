import { compileNameGlob } from '../globs.ts';
import type { Nature } from '../../contract/comparisons.ts';
import type { Fold, NoiseRule, NoiseTest } from '../../contract/noise.ts';
import type { Lexicon } from '../names/lexicon.ts';
import { memberPartOf, nameWithoutLevel } from '../names/family-members.ts';
import { splitName, stemOf } from '../names/split.ts';
import type { PlainFinding } from './find.ts';

/** Rules that every title begins with. */
export const builtInRules: readonly NoiseRule[] = [
  rule('repacked', 'Repacked: other bytes, the same content', { statuses: ['repacked'] }),
  rule('moved-folders', 'Moved with a whole folder', { inMovedFolder: true }),
  rule('moved', 'Moved: the same content at another path', { statuses: ['moved'] }),
  rule('recompressed', 'Packed otherwise: no more differs than loss leaves', {
    statuses: ['changed'],
    natures: ['recompressed', 'same', 'rewritten'],
  }),
  rule('helpers', 'Helper shapes: collision, shadow, reflection', { kinds: ['model'], isHelper: true }),
  rule('levels', 'Lower levels of detail of what is shown', { isLevelCopy: true }),
];

function rule(key: string, name: string, test: Partial<NoiseTest>): NoiseRule {
  const none: NoiseTest = {
    statuses: [],
    kinds: [],
    natures: [],
    paths: [],
    mostExtent: null,
    inMovedFolder: false,
    isHelper: false,
    isLevelCopy: false,
  };
  return { key, name, isOn: true, isBuiltIn: true, test: { ...none, ...test } };
}

/**
 * Ends of names that stand for shapes which nobody sees (common practice, no published source). Words that are things of
 * their own as often (hull, trigger, proxy) are not among them: a rule must not hide a boat.
 */
const helperEnds: ReadonlySet<string> = new Set(
  'col coll collision collider phys physics shadow shd reflection refl occluder navmesh'.split(' '),
);

/** What rules need to know of a span beside its findings. */
export interface NoiseFacts {
  natureOf: (finding: PlainFinding) => { nature: Nature; extent: number } | null;
  isInMovedFolder: (finding: PlainFinding) => boolean;
  lexicon: Lexicon;
}

/** For each finding the number of the rule that folds it away, or -1; and what each rule hides. */
export interface Folded {
  ruleOf: Int16Array;
  folds: Fold[];
}

/** Folds findings away by the first rule that fits and is on. Every rule is counted, whether it is on or not. */
export function foldNoise(
  findings: readonly PlainFinding[],
  rules: readonly NoiseRule[],
  facts: NoiseFacts,
): Folded {
  const ruleOf = new Int16Array(findings.length).fill(-1);
  const folds = rules.map(({ key, name, isOn }): Fold => ({ key, name, isOn, hides: 0, fits: 0 }));
  const judges = rules.map(({ test }) => judgeOf(test, facts));
  for (const [at, finding] of findings.entries())
    for (const [number, { isOn, test }] of rules.entries()) {
      // What is a copy of something shown is known once the others have been folded.
      if (test.isLevelCopy || !judges[number]?.(finding)) continue;
      const fold = folds[number];
      if (!fold) continue;
      fold.fits++;
      if (isOn && ruleOf[at] === -1) {
        ruleOf[at] = number;
        fold.hides++;
      }
    }
  for (const [number, { isOn, test }] of rules.entries()) {
    const fold = folds[number];
    if (!test.isLevelCopy || !fold) continue;
    for (const at of levelCopies(findings, ruleOf, facts.lexicon)) {
      const finding = findings[at];
      if (!finding || !judges[number]?.(finding)) continue;
      fold.fits++;
      if (!isOn || ruleOf[at] !== -1) continue;
      ruleOf[at] = number;
      fold.hides++;
    }
  }
  return { ruleOf, folds };
}

/** Whether a finding fits all that a test says, but for what hangs on other findings. */
function judgeOf(test: NoiseTest, facts: NoiseFacts): (finding: PlainFinding) => boolean {
  const statuses = new Set(test.statuses);
  const kinds = new Set(test.kinds);
  const natures = new Set(test.natures);
  const matchers = test.paths.map(compileNameGlob);
  return (finding) => {
    if (statuses.size > 0 && !statuses.has(finding.status)) return false;
    if (kinds.size > 0 && !kinds.has(finding.kind)) return false;
    if (matchers.length > 0 && !matchers.some((fits) => fits(finding.path))) return false;
    if (natures.size > 0 || test.mostExtent !== null) {
      const compared = facts.natureOf(finding);
      // What was not compared is not known to be noise.
      if (!compared || (natures.size > 0 && !natures.has(compared.nature))) return false;
      if (test.mostExtent !== null && compared.extent > test.mostExtent) return false;
    }
    if (test.inMovedFolder && !facts.isInMovedFolder(finding)) return false;
    return !test.isHelper || isHelper(finding.path, facts.lexicon);
  };
}

/** By the last part of the name but for its level; a name of one part, or one that the title gave a meaning, is a thing. */
function isHelper(path: string, lexicon: Lexicon): boolean {
  const parts = lexicon
    .read(splitName(stemOf(path), lexicon.rules))
    .filter(({ entry }) => entry?.role !== 'LOD');
  const last = parts.at(-1);
  if (!last || parts.length < 2 || !helperEnds.has(last.part.replace(/\d+$/, ''))) return false;
  return last.entry === null || last.entry.saidBy === 'common practice';
}

/** Findings of lower levels whose finest level is a finding of the same status that is shown. */
function* levelCopies(
  findings: readonly PlainFinding[],
  ruleOf: Int16Array,
  lexicon: Lexicon,
): Generator<number> {
  const keyOf = ({ path, status, kind }: PlainFinding): { key: string; level: number } | null => {
    if (kind !== 'model') return null;
    const level = memberPartOf(path, kind, lexicon).level ?? 0;
    const base = nameWithoutLevel(path, lexicon) || stemOf(path).toLowerCase();
    return { key: `${status} ${path.slice(0, path.lastIndexOf('/') + 1)}${base}`, level };
  };
  const shown = new Map<string, number>();
  const levels: { at: number; key: string; level: number }[] = [];
  for (const [at, finding] of findings.entries()) {
    const found = keyOf(finding);
    if (!found) continue;
    levels.push({ at, ...found });
    if (ruleOf[at] === -1) shown.set(found.key, Math.min(found.level, shown.get(found.key) ?? Infinity));
  }
  for (const { at, key, level } of levels) if (level > (shown.get(key) ?? Infinity)) yield at;
}
