import { expect } from 'chai';
import type { ReactNode } from 'react';
import type { Change } from '../../contract/history.ts';
import { TestPage } from '../../tests/support/page.ts';

/** Who somebody is, what everybody changed, and the way back. */
describe('People', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  let name = '';
  let changes: Change[] = [];
  const change = (id: number, more: Partial<Change>): Change => ({
    id,
    subject: 'lexicon',
    channel: '',
    from: '',
    to: '',
    what: `change ${id}`,
    doneBy: 'Ada',
    doneAt: '2026-05-01T10:00:00.000Z',
    items: 1,
    isUndone: false,
    ...more,
  });
  beforeEach(async () => {
    name = 'guest 123';
    changes = [
      change(2, { what: '“gru” is heron', subject: 'lexicon' }),
      change(1, { what: '3 findings kept', subject: 'marks', doneBy: 'Bo', items: 3, isUndone: true }),
    ];
    page.answer = ({ path, method, body }) => {
      if (path === '/person') {
        if (method === 'PUT') name = (body as { name: string }).name;
        return { body: { name } };
      }
      if (path === '/titles') return { body: [{ id: 7, name: 'T', rights: '', channels: [] }] };
      if (path.startsWith('/changes?'))
        return { body: { total: changes.length, changes, people: ['Ada', 'Bo'] } };
      if (path === '/changes/2/items')
        return { body: [{ item: 'part gru', before: null, after: '{"meaning":"heron"}' }] };
      if (path === '/changes/2/undo') {
        changes = [change(2, { what: '“gru” is heron', isUndone: true })];
        return { body: { change: 3, changed: 1, conflicts: [] } };
      }
      return { status: 404, body: { error: `no answer for ${path}` } };
    };
    const [{ store }, { api }] = await Promise.all([import('../ui/store.ts'), import('../ui/api.ts')]);
    store.dispatch(api.util.resetApiState());
  });
  afterEach(() => page.clear());

  const open = async (part: (loaded: typeof import('./history-view.tsx')) => ReactNode, query = '') => {
    const [loaded, { store }] = await Promise.all([import('./history-view.tsx'), import('../ui/store.ts')]);
    const [{ SnackbarProvider }, { Provider }, { MemoryRouter }] = await Promise.all([
      import('notistack'),
      import('react-redux'),
      import('react-router'),
    ]);
    return page.render(
      <Provider store={store}>
        <SnackbarProvider>
          <MemoryRouter initialEntries={[`/work/history${query}`]}>{part(loaded)}</MemoryRouter>
        </SnackbarProvider>
      </Provider>,
    );
  };

  it('shows who changed what, with what it was, and takes it back', async () => {
    const view = await open(({ HistoryView }) => <HistoryView />);
    await view.findByText('“gru” is heron');
    await view.findByText('undone');
    expect(view.getAllByRole('button', { name: /^Undo/ })).to.have.length(1);
    await page.user.click(view.getByRole('button', { name: 'Details of: “gru” is heron' }));
    await view.findByText('before: nothing');
    await view.findByText('after: meaning: heron');
    await page.user.click(view.getByRole('button', { name: 'Undo: “gru” is heron' }));
    await view.findByText('Took it back: “gru” is heron');
    await page.until(() => expect(view.queryAllByRole('button', { name: /^Undo/ })).to.have.length(0));
  });

  it('asks for what the address chooses', async () => {
    await open(({ HistoryView }) => <HistoryView />, '?subject=notes&by=Ada&title=T');
    await page.until(() => expect(page.sent.some(({ path }) => path.startsWith('/changes?'))).to.equal(true));
    const asked = new URLSearchParams(
      page.sent.find(({ path }) => path.startsWith('/changes?'))?.path.slice(9),
    );
    expect([asked.get('title'), asked.get('subject'), asked.get('by')]).to.deep.equal(['7', 'notes', 'Ada']);
  });

  it('is gone through to its end, page by page, as the address says', async () => {
    const all = Array.from({ length: 230 }, (_, at) => change(230 - at, {}));
    const usual = page.answer;
    page.answer = (request) => {
      if (!request.path.startsWith('/changes?')) return usual(request);
      const query = new URLSearchParams(request.path.slice(9));
      const [offset, limit] = [Number(query.get('offset')), Number(query.get('limit'))];
      return { body: { total: 230, changes: all.slice(offset, offset + limit), people: ['Ada'] } };
    };
    const view = await open(({ HistoryView }) => <HistoryView />, '?page=1');
    await view.findByText('101 to 200 of 230 changes');
    await view.findByText('change 130');
    await page.user.click(view.getByRole('button', { name: 'Older' }));
    await view.findByText('201 to 230 of 230 changes');
    await view.findByText('change 1');
    expect(view.getByRole('button', { name: 'Older' }).hasAttribute('disabled')).to.equal(true);
    await page.user.click(view.getByRole('button', { name: 'Newer' }));
    await page.user.click(await view.findByRole('button', { name: 'Newer' }));
    await view.findByText('1 to 100 of 230 changes');
  });

  it('loads again what it shows where things went on while nobody looked', async () => {
    const [{ useChangeEvents }, { store, changesSeen }, { Provider }, { SnackbarProvider }, { eventStream }] =
      await Promise.all([
        import('./api.ts'),
        import('../ui/store.ts'),
        import('react-redux'),
        import('notistack'),
        import('../ui/event-stream.ts'),
      ]);
    const heard: ((data: unknown) => void)[] = [];
    const stream = eventStream();
    const { listen } = Object.getPrototypeOf(stream) as Pick<typeof stream, 'listen'>;
    stream.listen = (name, listener) => {
      if (name === 'changes') heard.push(listener);
      return () => undefined;
    };
    const { HistoryView } = await import('./history-view.tsx');
    const { MemoryRouter } = await import('react-router');
    function Part(): ReactNode {
      useChangeEvents();
      return <HistoryView />;
    }
    try {
      const view = page.render(
        <Provider store={store}>
          <SnackbarProvider>
            <MemoryRouter>
              <Part />
            </MemoryRouter>
          </SnackbarProvider>
        </Provider>,
      );
      await view.findByText('“gru” is heron');
      const asked = (): number => page.sent.filter(({ path }) => path.startsWith('/changes?')).length;
      const post = (data: unknown): Promise<void> =>
        page.act(() => heard.forEach((listener) => listener(data)));
      store.dispatch(changesSeen(500));
      await post({ newest: 500, change: null });
      expect(asked()).to.equal(1);
      await post({ newest: 507, change: null });
      await page.until(() => expect(asked()).to.equal(2));
      expect(store.getState().history.seen).to.equal(507);
      await post({
        newest: 508,
        change: { id: 508, subject: 'lexicon', what: '“lum” is lantern', doneBy: 'Bo', title: 7 },
      });
      await view.findByText('Bo: “lum” is lantern');
      await page.until(() => expect(asked()).to.equal(3));
    } finally {
      stream.listen = listen;
    }
  });

  it('says so where nothing was changed', async () => {
    changes = [];
    const view = await open(({ HistoryView }) => <HistoryView />);
    await view.findByText('Nothing was changed yet');
  });

  it('keeps a name when its field is left, and lets nothing be said before that', async () => {
    const { PersonName } = await import('./person-name.tsx');
    const view = await open(() => <PersonName />);
    const field = (await view.findByLabelText('Your name')) as HTMLInputElement;
    await page.until(() => expect(field.value).to.equal('guest 123'));
    await page.user.clear(field);
    await page.user.type(field, 'Zoë{Enter}');
    await page.until(() => expect(name).to.equal('Zoë'));
    await page.until(() => expect(field.value).to.equal('Zoë'));
    // An empty name is none: the one before stays.
    await page.user.clear(field);
    await page.act(() => field.blur());
    await page.until(() => expect(field.value).to.equal('Zoë'));
    expect(page.sent.filter(({ method }) => method === 'PUT')).to.have.length(1);
  });

  it('holds what is said until the server knows who says it', async () => {
    const [{ api, holdRequests }, { store }] = await Promise.all([
      import('../ui/api.ts'),
      import('../ui/store.ts'),
    ]);
    let release: () => void = () => undefined;
    holdRequests(new Promise<void>((resolve) => (release = resolve)));
    const probe = api.injectEndpoints({
      endpoints: (build) => ({ probe: build.query<unknown, void>({ query: () => '/titles' }) }),
      overrideExisting: true,
    });
    const asked = store.dispatch(probe.endpoints.probe.initiate());
    await new Promise((resolve) => setTimeout(resolve, 30));
    expect(page.sent.filter(({ path }) => path === '/titles')).to.deep.equal([]);
    release();
    await asked;
    expect(page.sent.filter(({ path }) => path === '/titles')).to.have.length(1);
    asked.unsubscribe();
  });

  it('says with each request the newest change that the window has seen', async () => {
    const [{ api }, { store, changesSeen }] = await Promise.all([
      import('../ui/api.ts'),
      import('../ui/store.ts'),
    ]);
    store.dispatch(changesSeen(9031));
    store.dispatch(changesSeen(9012));
    const probe = api.injectEndpoints({
      endpoints: (build) => ({ seenProbe: build.query<unknown, void>({ query: () => '/titles' }) }),
    });
    const asked = store.dispatch(probe.endpoints.seenProbe.initiate());
    await asked;
    expect(page.sent.at(-1)?.headers.get('x-worvel-seen')).to.equal('9031');
    asked.unsubscribe();
  });
});
