import { expect } from 'chai';
import { ContainerError } from './container-error.ts';
import { UnpackingBudget } from './unpacking-budget.ts';

describe('UnpackingBudget', () => {
  it('lets small archives unpack to a gibibyte and no further', () => {
    const budget = new UnpackingBudget(1000);
    budget.spend(1024 ** 3);
    expect(() => budget.spend(1)).to.throw(ContainerError, 'bomb');
  });

  it('refuses what is too much, and still lets the rest through', () => {
    const budget = new UnpackingBudget(1000);
    expect(() => budget.spend(3 * 1024 ** 3)).to.throw(ContainerError);
    budget.spend(1000);
    expect(budget.leftBytes).to.equal(1024 ** 3 - 1000);
  });

  it('lets large archives unpack to 200 times their size', () => {
    const budget = new UnpackingBudget(1024 ** 3);
    budget.spend(200 * 1024 ** 3);
    expect(budget.leftBytes).to.equal(0);
  });
});
