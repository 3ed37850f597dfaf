import { expect } from 'chai';
import { TestPage } from '../../tests/support/page.ts';

/** Rows chosen by path, with keys and mouse. */
describe('useSelection', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  afterEach(() => page.clear());

  const rows = ['a', 'b', 'c', 'd', 'e'];
  const open = async () => {
    const { useSelection } = await import('./use-selection.ts');
    const between = async (first: number, last: number): Promise<string[]> => rows.slice(first, last + 1);
    const { result } = page.renderHook(() => useSelection(between));
    return result;
  };
  const chosen = ({ current }: Awaited<ReturnType<typeof open>>): string[] => [...current.paths].sort();

  it('switches rows on and off, and keeps those that are scrolled away', async () => {
    const selection = await open();
    await page.act(() => selection.current.toggle(1, 'b'));
    await page.act(() => selection.current.toggle(3, 'd'));
    expect(chosen(selection)).to.deep.equal(['b', 'd']);
    expect(selection.current.active).to.equal(3);
    await page.act(() => selection.current.toggle(1, 'b'));
    expect(chosen(selection)).to.deep.equal(['d']);
    await page.act(() => selection.current.moveTo(0));
    expect(chosen(selection)).to.deep.equal(['d']);
  });

  it('goes from where it was begun to a row, in either direction', async () => {
    const selection = await open();
    await page.act(() => selection.current.moveTo(2));
    await page.act(() => selection.current.extendTo(4));
    expect(chosen(selection)).to.deep.equal(['c', 'd', 'e']);
    await page.act(() => selection.current.extendTo(1));
    expect(chosen(selection)).to.deep.equal(['b', 'c', 'd', 'e']);
    expect(selection.current.active).to.equal(1);
    await page.act(() => selection.current.clear());
    expect(chosen(selection)).to.deep.equal([]);
    expect(selection.current.active).to.equal(1);
  });

  it('takes nothing in that comes after all was let go of', async () => {
    const { useSelection } = await import('./use-selection.ts');
    let answer: (paths: string[]) => void = () => undefined;
    const slow = (): Promise<string[]> => new Promise((resolve) => (answer = resolve));
    const { result } = page.renderHook(() => useSelection(slow));
    await page.act(() => result.current.toggle(0, 'a'));
    let extended: Promise<void> = Promise.resolve();
    await page.act(() => {
      extended = result.current.extendTo(3);
    });
    await page.act(() => result.current.reset());
    await page.act(async () => {
      answer(['a', 'b', 'c', 'd']);
      await extended;
    });
    expect([...result.current.paths]).to.deep.equal([]);
    expect(result.current.active).to.equal(0);
  });

  it('asks for no more at once than a request may carry', async () => {
    const { useSelection } = await import('./use-selection.ts');
    const asked: [number, number][] = [];
    const between = async (first: number, last: number): Promise<string[]> => {
      asked.push([first, last]);
      return [];
    };
    const { result } = page.renderHook(() => useSelection(between));
    await page.act(() => result.current.moveTo(10));
    await page.act(() => result.current.extendTo(999_999));
    expect(asked).to.deep.equal([[10, 20_009]]);
  });
});
