import { expect } from 'chai';
import { retryDeadlocks } from './retry-deadlocks.ts';

const failing = (code: string): Error => Object.assign(new Error(code), { code });

describe('retryDeadlocks', () => {
  it('runs again what the database ended to get out of a deadlock', async () => {
    let runs = 0;
    const outcome = await retryDeadlocks(() =>
      ++runs < 4 ? Promise.reject(failing('ER_LOCK_DEADLOCK')) : Promise.resolve('done'),
    );
    expect([outcome, runs]).to.deep.equal(['done', 4]);
  });

  it('gives up in the end, with what the database said', async () => {
    let runs = 0;
    const message = await retryDeadlocks(() => {
      runs++;
      return Promise.reject(failing('ER_LOCK_DEADLOCK'));
    }).catch((error: Error) => error.message);
    expect([message, runs]).to.deep.equal(['ER_LOCK_DEADLOCK', 9]);
  });

  it('never runs anything else again', async () => {
    for (const error of [failing('ER_DUP_ENTRY'), new TypeError('x'), failing('ECONNRESET')]) {
      let runs = 0;
      const caught: unknown = await retryDeadlocks(() => {
        runs++;
        return Promise.reject(error);
      }).catch((failure: unknown) => failure);
      expect([caught, runs]).to.deep.equal([error, 1]);
    }
  });
});
