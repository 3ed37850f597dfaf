import { expect } from 'chai';
import { useState, type ReactNode } from 'react';
import { TestPage } from '../../tests/support/page.ts';
import type { Job } from '../../contract/work.ts';

/** Parts of the interface that others are made of. */
describe('Parts of the interface', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  afterEach(() => page.clear());

  describe('a filter that is typed into', () => {
    const changes: string[] = [];
    beforeEach(() => changes.splice(0));
    const open = async (initial = '') => {
      const { TextFilter } = await import('./text-filter.tsx');
      let setOutside: (value: string) => void = () => undefined;
      function Holder(): ReactNode {
        const [value, setValue] = useState(initial);
        setOutside = setValue;
        return (
          <TextFilter
            value={value}
            label="Words"
            onChange={(text) => {
              changes.push(text);
              setValue(text);
            }}
          />
        );
      }
      const { getByLabelText } = page.render(<Holder />);
      return { field: getByLabelText('Words') as HTMLInputElement, setOutside };
    };

    it('asks when the typing pauses, and not for each letter', async () => {
      const { field } = await open();
      await page.user.type(field, 'gru white');
      expect(changes).to.deep.equal([]);
      await page.until(() => expect(changes).to.deep.equal(['gru white']));
      expect(field.value).to.equal('gru white');
    });

    it('takes over what comes from elsewhere, and keeps what is being typed', async () => {
      const { field, setOutside } = await open('heron');
      expect(field.value).to.equal('heron');
      await page.act(() => setOutside('lantern'));
      expect(field.value).to.equal('lantern');
      await page.user.type(field, 's');
      await page.until(() => expect(changes).to.deep.equal(['lanterns']));
    });

    it('keeps letters that are typed while the address follows late, one answer after the other', async () => {
      const { TextFilter } = await import('./text-filter.tsx');
      let setAddress: (value: string) => void = () => undefined;
      function Late(): ReactNode {
        const [value, setValue] = useState('');
        setAddress = setValue;
        return <TextFilter value={value} label="Words" onChange={(text) => changes.push(text)} />;
      }
      const field = page.render(<Late />).getByLabelText('Words') as HTMLInputElement;
      for (const letter of ['o', 'n', 'e']) {
        const count = changes.length;
        await page.user.type(field, letter);
        await page.until(() => expect(changes).to.have.length(count + 1));
      }
      await page.user.type(field, 's');
      for (const late of changes.slice()) {
        await page.act(() => setAddress(late));
        expect(field.value).to.equal('ones');
      }
      await page.until(() => expect(changes.at(-1)).to.equal('ones'));
      await page.act(() => setAddress('ones'));
      await page.act(() => setAddress('on'));
      expect(field.value, 'an address from elsewhere').to.equal('on');
    });
  });

  describe('shortcuts', () => {
    const press = (key: string, target: EventTarget | null = null, modifiers = {}) => ({
      key,
      ctrlKey: false,
      metaKey: false,
      altKey: false,
      target,
      ...modifiers,
    });

    it('are none while somebody types, nor with a modifier', async () => {
      const { isForShortcut } = await import('./shortcuts.ts');
      for (const name of ['input', 'textarea', 'select'])
        expect(isForShortcut(press('k', document.createElement(name))), name).to.equal(false);
      expect(isForShortcut(press('k', document.createElement('div')))).to.equal(true);
      for (const modifier of ['ctrlKey', 'metaKey', 'altKey'])
        expect(isForShortcut(press('k', null, { [modifier]: true }))).to.equal(false);
    });

    it('of letters can be switched off; those of other keys stay', async () => {
      const { isForShortcut, setLetterShortcuts } = await import('./shortcuts.ts');
      setLetterShortcuts(false);
      for (const key of ['k', 'K', 'ß', '7', '?', '+', '-'])
        expect(isForShortcut(press(key)), key).to.equal(false);
      for (const key of ['Enter', 'ArrowDown', 'Escape', ' '])
        expect(isForShortcut(press(key)), key).to.equal(true);
      setLetterShortcuts(true);
      expect(isForShortcut(press('k'))).to.equal(true);
    });
  });

  it('keep their choices in the address, and take empty ones out', async () => {
    // By the same way as the parts load it: a package may have two copies, and a router is known by its own alone.
    const { MemoryRouter, useLocation } = await import('react-router');
    const { useAddress } = await import('./use-address.ts');
    let set: ReturnType<typeof useAddress>[1] = () => undefined;
    let search = '';
    function Part(): ReactNode {
      set = useAddress()[1];
      search = useLocation().search;
      return null;
    }
    page.render(
      <MemoryRouter initialEntries={['/x?from=1&kind=model']}>
        <Part />
      </MemoryRouter>,
    );
    await page.act(() => set({ text: 'a b', kind: '' }));
    expect(search).to.equal('?from=1&text=a+b');
    await page.act(() => set({ text: undefined, path: 'ä/ö' }));
    expect(new URLSearchParams(search).get('path')).to.equal('ä/ö');
    expect(search).not.to.include('text');
  });

  it('know jobs by what changed of them', async () => {
    const { store, jobsTold, streamLost } = await import('./store.ts');
    const job = (id: number, state: Job['state']): Job => ({ id, state }) as Job;
    const told = (): [number, string][] => store.getState().work.jobs.map(({ id, state }) => [id, state]);
    store.dispatch(jobsTold({ isAll: true, jobs: [job(2, 'running'), job(1, 'done')], gone: [] }));
    store.dispatch(jobsTold({ isAll: false, jobs: [job(3, 'waiting'), job(2, 'done')], gone: [1] }));
    expect(told()).to.deep.equal([
      [3, 'waiting'],
      [2, 'done'],
    ]);
    store.dispatch(streamLost());
    expect(store.getState().work.isLive).to.equal(false);
    store.dispatch(jobsTold({ isAll: true, jobs: [job(9, 'failed')], gone: [] }));
    expect(told()).to.deep.equal([[9, 'failed']]);
    expect(store.getState().work.isLive).to.equal(true);
  });

  it('remember the look that was chosen', async () => {
    const { store, modeChosen } = await import('./store.ts');
    store.dispatch(modeChosen('dark'));
    expect(localStorage.getItem('mode')).to.equal('dark');
    expect(store.getState().look.mode).to.equal('dark');
  });

  it('say in a sentence what went wrong', async () => {
    const { failureText, address } = await import('./api.ts');
    expect(failureText(undefined)).to.equal('');
    expect(failureText({ status: 404, data: { error: 'There is no build 9.' } })).to.equal(
      'There is no build 9.',
    );
    expect(failureText({ status: 'FETCH_ERROR', error: 'x' })).to.include('Is it still running?');
    expect(failureText({ status: 502, data: '<html>' })).to.equal('The server answered with 502.');
    expect(failureText({ message: 'odd' })).to.equal('odd');
    expect(address('/paths', { text: 'a&b', limit: 3 })).to.equal('/paths?text=a%26b&limit=3');
  });
});
