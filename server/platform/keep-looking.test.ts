import { expect } from 'chai';
import { setTimeout as sleep } from 'node:timers/promises';
import { Listeners } from './http/listeners.ts';
import { keepLooking } from './keep-looking.ts';

describe('keepLooking', () => {
  it('never looks twice at once, and goes on after a failure, which it tells', async () => {
    let [looks, atOnce, most] = [0, 0, 0];
    const failures: string[] = [];
    const stop = keepLooking(
      async () => {
        looks++;
        most = Math.max(most, ++atOnce);
        await sleep(8);
        atOnce--;
        if (looks === 2) throw new Error('away for a moment');
      },
      1,
      (error) => failures.push(String(error)),
    );
    while (looks < 5) await sleep(5);
    stop();
    expect(most).to.equal(1);
    expect(failures).to.deep.equal(['Error: away for a moment']);
    const seen = looks;
    await sleep(40);
    expect(looks).to.be.at.most(seen + 1);
  });

  it('is silent about what fails after it was stopped', async () => {
    const failures: unknown[] = [];
    const stop = keepLooking(
      async () => {
        await sleep(10);
        throw new Error('the database is gone');
      },
      1,
      (error) => failures.push(error),
    );
    stop();
    await sleep(30);
    expect(failures).to.deep.equal([]);
  });
});

describe('Listeners', () => {
  it('look once for all who listen, as long as anybody does', async () => {
    let looks = 0;
    const listeners = new Listeners<number>(async (post) => post(++looks));
    expect(listeners.isEmpty).to.equal(true);
    const heard: [string, number][] = [];
    const leaveOne = listeners.add((event) => heard.push(['one', event]));
    const leaveTwo = listeners.add((event) => heard.push(['two', event]));
    while (looks < 2) await sleep(20);
    expect(heard.filter(([, event]) => event === 2).map(([who]) => who)).to.deep.equal(['one', 'two']);
    leaveOne();
    leaveTwo();
    expect(listeners.isEmpty).to.equal(true);
    const seen = looks;
    await sleep(900);
    expect(looks).to.equal(seen);
    // Who comes back begins anew.
    const leave = listeners.add((event) => heard.push(['three', event]));
    while (looks === seen) await sleep(20);
    leave();
    expect(heard.at(-1)?.[0]).to.equal('three');
  });
});
