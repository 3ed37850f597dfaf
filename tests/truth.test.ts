import { expect } from 'chai';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { judge, type Verdict } from '../bench/truth/judge.ts';
import { makers } from '../bench/truth/makers.ts';

/** One pair of each kind of change that the benchmark has hundreds of. */
const share = 0.08;

/** What is said of known changes that other programs made, over open material. */
describe('What is said is true', () => {
  for (const [kind, make] of Object.entries(makers))
    it(`of ${kind}: no change hidden, no sentence false, nothing shown that loss left`, async () => {
      const folder = mkdtempSync(join(tmpdir(), 'worvel-test-truth-'));
      const verdicts: Verdict[] = [];
      try {
        for await (const truth of make(folder, share)) verdicts.push(await judge(truth));
      } finally {
        rmSync(folder, { recursive: true, force: true });
      }
      expect(
        verdicts.length,
        'needs sonic-pi-samples, assimp-testmodels, sox, ffmpeg, flac, vorbis-tools, opus-tools, python3-pil',
      ).to.be.above(20);
      const wrong = (...kinds: Verdict['verdict'][]): string[] =>
        verdicts
          .filter(({ verdict }) => kinds.includes(verdict))
          .map(
            ({ truth, nature, sentence, reason }) => `${truth.group}: [${nature}] ${sentence} (${reason})`,
          );
      expect(wrong('hidden', 'failed')).to.deep.equal([]);
      expect(wrong('false', 'noise')).to.deep.equal([]);
      // What is left out is no falsehood; it stays rare.
      expect(wrong('vague').length, wrong('vague').join('\n')).to.be.at.most(verdicts.length / 20);
    });
});
