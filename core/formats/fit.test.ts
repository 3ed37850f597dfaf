import { expect } from 'chai';
import type { SheetFit } from '../../contract/kept-sheets.ts';
import { fitCounts, isSameReason, joinFits } from './fit.ts';

const fit = (more: Partial<SheetFit>): SheetFit => ({
  ...{ files: 10, versions: [], failures: [], left: 0, next: null },
  ...more,
});

describe('What came of trying a sheet', () => {
  it('has one reason for files that differ in numbers alone', () => {
    expect(isSameReason('count 1,204: 96 bytes at 0x1C', 'count 7: 4 bytes at 0xFF')).to.equal(true);
    expect(isSameReason('count 7', 'size 7')).to.equal(false);
  });

  it('is counted together over several goes', () => {
    const failure = (reason: string, files: number) => ({ reason, files, paths: [`${reason}.bin`] });
    const first = joinFits(
      null,
      fit({ versions: [{ version: '1', files: 2 }], failures: [failure('at 1', 1)], left: 1, next: 4 }),
    );
    expect(fitCounts(first)).to.deep.equal({ tried: 3, fitting: 2 });
    const both = joinFits(
      first,
      fit({
        versions: [
          { version: '2', files: 3 },
          { version: '1', files: 1 },
        ],
        failures: [failure('at 9', 2), failure('else', 1)],
      }),
    );
    expect(both).to.deep.equal({
      ...fit({ left: 1 }),
      versions: [
        { version: '1', files: 3 },
        { version: '2', files: 3 },
      ],
      failures: [{ reason: 'at 1', files: 3, paths: ['at 1.bin', 'at 9.bin'] }, failure('else', 1)],
    });
    expect(fitCounts(both)).to.deep.equal({ tried: 9, fitting: 6 });
  });
});
