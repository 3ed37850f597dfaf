import { expect } from 'chai';
import { dayText, momentText } from './dates.ts';

describe('Dates', () => {
  const before = process.env.TZ;
  afterEach(() => {
    if (before === undefined) delete process.env.TZ;
    else process.env.TZ = before;
  });

  it('are written in one way, with the zone where hours matter', () => {
    process.env.TZ = 'UTC';
    expect(dayText('2026-11-09T14:05:00Z')).to.equal('9 Nov 2026');
    expect(momentText('2026-11-09T14:05:00Z')).to.equal('9 Nov 2026, 14:05 UTC');
    process.env.TZ = 'Asia/Kolkata';
    expect(momentText('2026-11-09T14:05:00Z')).to.equal('9 Nov 2026, 19:35 UTC+5:30');
    process.env.TZ = 'America/St_Johns';
    expect(momentText('2026-11-09T14:05:00Z')).to.equal('9 Nov 2026, 10:35 UTC−3:30');
    process.env.TZ = 'Pacific/Auckland';
    expect(dayText('2026-11-09T14:05:00Z')).to.equal('10 Nov 2026');
  });
});
