import { expect } from 'chai';
import { inventedFormat } from '../../../tests/support/invented-formats.ts';
import { proposalsFor } from './propose.ts';
import { tickedScore, type Proposal, type Sample } from './proposal.ts';

const samplesOf = (files: readonly Uint8Array[]): Sample[] =>
  files.map((bytes) => ({ bytes, size: bytes.length }));
const judged: readonly string[] = ['constant', 'order', 'size', 'count', 'offset', 'stride'];

describe('What the bytes of unknown files say', () => {
  it('finds 90 of 100 and is right in 95 of 100 of 200 formats that a generator invents', function () {
    this.timeout(120_000);
    const sums = { asked: 0, found: 0, ticked: 0, right: 0 };
    const wrong: string[] = [];
    const missed: string[] = [];
    for (let seed = 1; seed <= 200; seed++) {
      const { files, isLittle, fields, stride } = inventedFormat(seed);
      const ticked = proposalsFor(samplesOf(files)).filter(
        ({ kind, score }) => judged.includes(kind) && score >= tickedScore,
      );
      const isRight = (proposal: Proposal): boolean => {
        if (proposal.kind === 'order') return proposal.isLittle === isLittle;
        if (proposal.kind === 'stride') return proposal.stride === stride;
        return fields.some(
          ({ kind, at, bytes, stride: each }) =>
            kind === proposal.kind &&
            at === proposal.at &&
            bytes === proposal.bytes &&
            each === proposal.stride,
        );
      };
      sums.asked += fields.length + (stride === null ? 0 : 1);
      sums.ticked += ticked.length;
      for (const proposal of ticked)
        if (isRight(proposal)) {
          sums.right++;
          if (proposal.kind !== 'order') sums.found++;
        } else wrong.push(`${seed}: ${proposal.kind} at ${proposal.at}, ${proposal.bytes}: ${proposal.says}`);
      for (const field of fields)
        if (
          !ticked.some(
            ({ kind, at, bytes }) => kind === field.kind && at === field.at && bytes === field.bytes,
          )
        )
          missed.push(`${seed}: ${field.kind} at ${field.at}, ${field.bytes}`);
    }
    const said = `${JSON.stringify(sums)}\nwrong:\n${wrong.slice(0, 20).join('\n')}\nmissed:\n${missed.slice(0, 20).join('\n')}`;
    if (process.env.WORVEL_SAY) console.log(said);
    expect(sums.found / sums.asked, said).to.be.at.least(0.9);
    expect(sums.right / sums.ticked, said).to.be.at.least(0.95);
  });
});
