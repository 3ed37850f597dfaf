import { expect } from 'chai';
import type { NoiseRule, NoiseTest } from '../../contract/noise.ts';
import type { Nature } from '../../contract/comparisons.ts';
import { Lexicon } from '../names/lexicon.ts';
import { usualRules } from '../names/split.ts';
import type { PlainFinding } from './find.ts';
import { builtInRules, foldNoise, type NoiseFacts } from './noise.ts';

const finding = (path: string, more: Partial<PlainFinding> = {}): PlainFinding =>
  ({ status: 'changed', kind: 'picture', path, oldPath: path, ...more }) as PlainFinding;
const facts = (
  natures: Record<string, [Nature, number]> = {},
  moved: readonly string[] = [],
): NoiseFacts => ({
  natureOf: ({ path }) => {
    const known = natures[path];
    return known ? { nature: known[0], extent: known[1] } : null;
  },
  isInMovedFolder: ({ path }) => moved.includes(path),
  lexicon: new Lexicon([], usualRules, []),
});
const own = (test: Partial<NoiseTest>, isOn = true): NoiseRule => {
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
  return { key: 'own', name: 'own', isOn, isBuiltIn: false, test: { ...none, ...test } };
};
/** Paths that are folded away, each with the rule that does it. */
function folded(
  findings: readonly PlainFinding[],
  rules: readonly NoiseRule[],
  known = facts(),
): Record<string, string> {
  const { ruleOf, folds } = foldNoise(findings, rules, known);
  for (const [number, { hides }] of folds.entries())
    expect(ruleOf.filter((rule) => rule === number).length, 'what a rule hides is counted').to.equal(hides);
  return Object.fromEntries(
    findings.flatMap(({ path }, at) => {
      const rule = rules[ruleOf[at] ?? -1];
      return rule ? [[path, rule.key]] : [];
    }),
  );
}

describe('Folding noise away', () => {
  it('leaves what was not compared, and what really changed', () => {
    const findings = ['a.png', 'b.png', 'c.png'].map((path) => finding(path));
    const known = facts({ 'a.png': ['recompressed', 0.01], 'b.png': ['changed' as Nature, 0.5] });
    expect(folded(findings, builtInRules, known)).to.deep.equal({ 'a.png': 'recompressed' });
  });

  it('folds by status, folder that moved, and by the first rule that fits', () => {
    const findings = [
      finding('r.png', { status: 'repacked' }),
      finding('m.png', { status: 'moved' }),
      finding('f/m.png', { status: 'moved' }),
      finding('new.png', { status: 'added' }),
    ];
    expect(folded(findings, builtInRules, facts({}, ['f/m.png']))).to.deep.equal({
      'r.png': 'repacked',
      'm.png': 'moved',
      'f/m.png': 'moved-folders',
    });
  });

  it('needs all that a rule says, and counts what fits a rule that is off', () => {
    const rule = own({ kinds: ['sound'], paths: ['voice/**'], statuses: ['changed'] });
    const findings = [
      finding('voice/a.wav', { kind: 'sound' }),
      finding('voice/a.png'),
      finding('music/a.wav', { kind: 'sound' }),
      finding('voice/b.wav', { kind: 'sound', status: 'added' }),
    ];
    expect(folded(findings, [rule])).to.deep.equal({ 'voice/a.wav': 'own' });
    const { folds, ruleOf } = foldNoise(findings, [own(rule.test, false)], facts());
    expect([...ruleOf]).to.deep.equal([-1, -1, -1, -1]);
    expect(folds[0]).to.include({ hides: 0, fits: 1, isOn: false });
  });

  it('keeps what differs by more than a rule allows', () => {
    const rule = own({ mostExtent: 0.02 });
    const known = facts({ 'a.png': ['recompressed', 0.02], 'b.png': ['recompressed', 0.021] });
    expect(
      folded(
        ['a.png', 'b.png', 'c.png'].map((path) => finding(path)),
        [rule],
        known,
      ),
    ).to.deep.equal({
      'a.png': 'own',
    });
  });

  it('knows shapes that nobody sees by the end of their names, and hides no boat for it', () => {
    const model = (path: string): PlainFinding => finding(path, { kind: 'model', status: 'added' });
    const hidden = ['pier_col.glb', 'pier_collision.glb', 'pier_shadow_l1.glb', 'heron_phys2.glb'];
    const shown = ['collision.glb', 'boat_hull.glb', 'shadow_pier.glb', 'protocol.glb', 'colossus.glb'];
    const helpers = builtInRules.filter(({ key }) => key === 'helpers');
    expect(Object.keys(folded([...hidden, ...shown].map(model), helpers)).sort()).to.deep.equal(
      hidden.sort(),
    );
    // A picture of that name is a picture.
    expect(folded([finding('pier_col.png')], helpers)).to.deep.equal({});
  });

  it('shows the finest of several levels, and the next one where that is folded away', () => {
    const level = (path: string, status: PlainFinding['status'] = 'added'): PlainFinding =>
      finding(path, { kind: 'model', status });
    const findings = [
      level('a/pier_l0.glb'),
      level('a/pier_l1.glb'),
      level('a/pier_l2.glb'),
      level('b/pier_l1.glb'),
      level('a/pier_l3.glb', 'removed'),
    ];
    expect(folded(findings, builtInRules)).to.deep.equal({
      'a/pier_l1.glb': 'levels',
      'a/pier_l2.glb': 'levels',
    });
    const first = own({ paths: ['a/pier_l0.glb'] });
    expect(folded(findings, [first, ...builtInRules])).to.deep.equal({
      'a/pier_l0.glb': 'own',
      'a/pier_l2.glb': 'levels',
    });
  });
});
