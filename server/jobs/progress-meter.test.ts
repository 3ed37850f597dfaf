import { expect } from 'chai';
import { ProgressMeter } from './progress-meter.ts';

describe('ProgressMeter', () => {
  it('tells speed and time left from the last ten seconds', () => {
    let ms = 0;
    const meter = new ProgressMeter(() => ms);
    meter.begin('reading files', 100, 1000);
    expect(meter.measure(0, 0).secondsLeft).to.equal(null);
    ms = 2000;
    const progress = meter.measure(20, 200);
    expect(progress.bytesPerSecond).to.equal(100);
    expect(progress.secondsLeft).to.equal(8);
    expect(progress.seconds).to.equal(2);
  });

  it('forgets how fast it once was', () => {
    let ms = 0;
    const meter = new ProgressMeter(() => ms);
    meter.begin('reading files', null, 10_000);
    for (let second = 0; second <= 40; second++) {
      ms = second * 1000;
      meter.measure(0, second < 20 ? second * 100 : 2000 + (second - 20) * 10);
    }
    ms = 41_000;
    expect(meter.measure(0, 2210).bytesPerSecond).to.equal(10);
  });
});
