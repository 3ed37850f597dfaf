import { expect } from 'chai';
import { findingsPageSchema, findingsQuerySchema, type FindingsPage } from '../../../contract/findings.ts';
import { TestPage } from '../../../tests/support/page.ts';

/** What is shown of an update, and how that is chosen. */
describe('The bar of filters', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  beforeEach(() => sets.splice(0));
  afterEach(() => page.clear());

  const sets: Record<string, string | undefined>[] = [];
  const findings = (more: Partial<FindingsPage> = {}): FindingsPage =>
    findingsPageSchema.parse({
      summary: {
        added: 3,
        removed: 0,
        changed: 1200,
        moved: 0,
        copied: 0,
        repacked: 0,
        unchanged: 9000,
        leftOut: 0,
      },
      kinds: { picture: 1000, model: 203 },
      marks: { open: 1200, kept: 2, aside: 1, done: 0 },
      carried: 0,
      revision: 0,
      people: [],
      labels: [],
      folds: [],
      folderMoves: [],
      evidence: { state: 'done', job: null },
      asOf: 0,
      newestFacts: 0,
      total: 1203,
      offset: 0,
      findings: [],
      ...more,
    });
  const open = async (query: Record<string, string> = {}, shown: FindingsPage | null = findings()) => {
    const [
      { Filterbar },
      { store },
      { createLook },
      { ThemeProvider },
      { Provider },
      { MemoryRouter },
      { SnackbarProvider },
    ] = await Promise.all([
      import('./filterbar.tsx'),
      import('../../ui/store.ts'),
      import('../../ui/theme.ts'),
      import('@mui/material'),
      import('react-redux'),
      import('react-router'),
      import('notistack'),
    ]);
    return page.render(
      <Provider store={store}>
        <ThemeProvider theme={createLook('light')}>
          <SnackbarProvider>
            <MemoryRouter>
              <Filterbar
                query={findingsQuerySchema.parse({ channel: 1, from: '0.1', to: '0.2', ...query })}
                page={shown ?? undefined}
                view={query.view === 'table' ? 'table' : 'sheet'}
                isFetching={shown === null}
                isMarkingMany={false}
                onMarkMany={() => sets.push({ many: 'yes' })}
                set={(wanted) => sets.push(wanted)}
              />
            </MemoryRouter>
          </SnackbarProvider>
        </ThemeProvider>
      </Provider>,
    );
  };
  const button = (view: Awaited<ReturnType<typeof open>>, name: RegExp): HTMLElement =>
    view.getByRole('button', { name });

  it('has the statuses and kinds that there are, with their counts', async () => {
    const view = await open();
    expect(button(view, /added 3$/i).getAttribute('aria-pressed')).to.equal('false');
    button(view, /changed 1,200$/i);
    button(view, /^picture 1,000$/);
    for (const name of [/removed/i, /moved/i, /^sound/])
      expect(view.queryByRole('button', { name })).to.equal(null);
    expect(view.getAllByRole('status')[0]?.textContent).to.equal('1,203 shown, 9,000 unchanged');
  });

  it('keeps what is chosen in reach when there is none of it', async () => {
    const view = await open({ status: 'removed', kind: 'sound' });
    expect(button(view, /removed 0$/i).getAttribute('aria-pressed')).to.equal('true');
    expect(button(view, /^sound 0$/).getAttribute('aria-pressed')).to.equal('true');
  });

  it('adds a choice to those that are made, and takes one away', async () => {
    const view = await open({ status: 'changed', kind: 'model' });
    await page.user.click(button(view, /added 3$/i));
    await page.user.click(button(view, /changed 1,200$/i));
    await page.user.click(button(view, /^picture/));
    expect(sets).to.deep.equal([{ status: 'changed,added' }, { status: '' }, { kind: 'model,picture' }]);
  });

  it('shows what is set as chips that are taken away one by one', async () => {
    const view = await open({ text: 'gru', folder: 'models', assignee: 'Bo', label: 'isles' });
    for (const [label, name] of [
      ['“gru”', 'text'],
      ['in models', 'folder'],
      ['of Bo', 'assignee'],
    ] as const) {
      const chip = view.getByText(label).closest('.MuiChip-root');
      const cross = chip?.querySelector('svg');
      if (!cross) throw new Error(`no way to take ${label} away`);
      await page.user.click(cross);
      expect(sets.at(-1)).to.deep.equal({ [name]: '' });
    }
  });

  it('says what noise hides, and by which rule', async () => {
    const folds = [
      { key: 'repacked', name: 'Repacked', isOn: true, hides: 1300, fits: 1300 },
      { key: 'helpers', name: 'Helpers', isOn: true, hides: 0, fits: 4 },
    ];
    const view = await open({}, findings({ folds }));
    expect(view.getAllByRole('status')[0]?.textContent).to.include('1,300 folded away');
    const noise = view.getByLabelText('Noise');
    expect([...noise.querySelectorAll('option')].map(({ textContent }) => textContent)).to.deep.equal([
      'without noise',
      'with noise',
      '1,300: Repacked',
    ]);
    await page.user.selectOptions(noise, '1,300: Repacked');
    expect(sets).to.deep.equal([{ noise: 'repacked' }]);
  });

  it('offers people, labels and what was left open only where there are any', async () => {
    const without = await open();
    for (const label of ['Assignee', 'Label']) expect(without.queryByLabelText(label)).to.equal(null);
    expect(without.getByLabelText('Marks').textContent).not.to.include('left open before');
    page.clear();
    const view = await open({}, findings({ people: ['Ada', 'Bo'], labels: ['isles'], carried: 7 }));
    await page.user.selectOptions(view.getByLabelText('Assignee'), 'Bo');
    await page.user.selectOptions(view.getByLabelText('Label'), 'isles');
    await page.user.selectOptions(view.getByLabelText('Marks'), 'left open before 7');
    expect(sets).to.deep.equal([{ assignee: 'Bo' }, { label: 'isles' }, { mark: 'carried' }]);
  });

  it('changes order and view, and says that it is loading', async () => {
    const view = await open();
    await page.user.selectOptions(view.getByLabelText('Order'), 'most news first');
    await page.user.click(view.getByRole('button', { name: 'Table' }));
    await page.user.click(view.getByRole('button', { name: 'Mark many' }));
    expect(sets).to.deep.equal([{ sort: 'news' }, { view: 'table' }, { many: 'yes' }]);
    page.clear();
    const loading = await open({}, null);
    loading.getByRole('progressbar', { name: 'Loading findings' });
    expect(loading.queryByRole('button', { name: 'Mark many' })).to.equal(null);
  });

  it('says what one of the builds leaves out', async () => {
    const summary = { ...findings().summary, leftOut: 1500 };
    const view = await open({}, findings({ summary }));
    expect(view.getAllByRole('status')[0]?.textContent).to.include('1,500 left out of one build');
  });
});
