import { expect } from 'chai';
import type { Progress } from '../contract/work.ts';
import { progressShare, progressText, showProgress } from './progress.ts';

const progress = (more: Partial<Progress>): Progress => ({
  phase: 'reading files',
  files: 12,
  totalFiles: null,
  bytes: 0,
  totalBytes: null,
  bytesPerSecond: 0,
  secondsLeft: null,
  seconds: 1,
  ...more,
});

describe('Progress on the command line', () => {
  it('says what is known, and nothing of what is not', () => {
    expect(progressText(progress({}))).to.equal('reading files: 12 files');
    expect(
      progressText(
        progress({
          totalFiles: 40,
          bytes: 1_500_000,
          totalBytes: 3_000_000,
          bytesPerSecond: 500_000,
          secondsLeft: 2.2,
        }),
      ),
    ).to.equal('reading files: 12 of 40 files, 1.5 MB of 3.0 MB, 500 kB a second, 3 s left');
  });

  it('knows how much is done by bytes, else by files, else not at all', () => {
    expect(progressShare(progress({ bytes: 25, totalBytes: 100, totalFiles: 12 }))).to.equal(0.25);
    expect(progressShare(progress({ totalFiles: 48 }))).to.equal(0.25);
    expect(progressShare(progress({}))).to.equal(0);
    expect(progressShare(progress({ totalBytes: 0, totalFiles: 0 }))).to.equal(0);
    // A source that grew while it was read.
    expect(progressShare(progress({ bytes: 300, totalBytes: 100 }))).to.equal(1);
  });

  it('is a plain line for each phase where nobody looks', () => {
    const written: string[] = [];
    const write = process.stderr.write.bind(process.stderr);
    const { isTTY } = process.stderr;
    process.stderr.isTTY = false;
    process.stderr.write = (text: string | Uint8Array) => written.push(String(text)) > 0;
    try {
      showProgress(progress({ phase: 'finding files' }));
      showProgress(progress({ phase: 'finding files', files: 13 }));
      showProgress(progress({ phase: 'comparing' }));
    } finally {
      process.stderr.write = write;
      process.stderr.isTTY = isTTY;
    }
    expect(written).to.deep.equal(['finding files: 12 files\n', 'comparing: 12 files\n']);
  });
});
