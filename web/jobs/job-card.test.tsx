import { expect } from 'chai';
import type { Job, Progress } from '../../contract/work.ts';
import { TestPage } from '../../tests/support/page.ts';

/** A job as somebody watches it: how far it is, what went wrong, and what can be done. */
describe('A job’s card', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  beforeEach(() => (page.answer = () => ({ body: job({}) })));
  afterEach(() => page.clear());

  const progress: Progress = {
    phase: 'reading files',
    files: 1200,
    totalFiles: 4800,
    bytes: 5_000_000,
    totalBytes: 20_000_000,
    bytesPerSecond: 1_000_000,
    secondsLeft: 14.2,
    seconds: 5.4,
  };
  const job = (more: Partial<Job>): Job => ({
    id: 7,
    kind: 'index',
    priority: 0,
    attempts: 1,
    subject: '',
    state: 'running',
    title: 'Ferry',
    channel: 'main',
    build: '0.2',
    source: '/games/ferry-0.2',
    createdAt: '2031-04-01T00:00:00.000Z',
    finishedAt: null,
    error: null,
    progress: null,
    result: null,
    report: null,
    speeds: [],
    ...more,
  });
  const open = async (shown: Partial<Job>) => {
    const [{ JobCard }, { store }, { Provider }, { MemoryRouter }] = await Promise.all([
      import('./job-card.tsx'),
      import('../ui/store.ts'),
      import('react-redux'),
      import('react-router'),
    ]);
    return page.render(
      <Provider store={store}>
        <MemoryRouter>
          <JobCard job={job(shown)} />
        </MemoryRouter>
      </Provider>,
    );
  };
  const buttons = (view: Awaited<ReturnType<typeof open>>): string[] =>
    view.queryAllByRole('button').map((button) => button.textContent);

  it('tells how far it is in words and as a bar, by bytes where they are known', async () => {
    const view = await open({ progress });
    view.getByRole('article', { name: 'Indexing: Ferry, main, build 0.2' });
    expect(view.getByRole('progressbar').getAttribute('aria-valuenow')).to.equal('25');
    view.getByText(
      'Reading files: 1,200 of 4,800 files, 5.0 MB of 20 MB, 1.0 MB a second, 5 s so far, about 15 s left',
    );
  });

  it('does not pretend to know an end that nobody knows', async () => {
    const view = await open({
      progress: { ...progress, totalFiles: null, totalBytes: null, secondsLeft: null, bytesPerSecond: 0 },
    });
    expect(view.getByRole('progressbar').hasAttribute('aria-valuenow')).to.equal(false);
    view.getByText('Reading files: 1,200 files, 5.0 MB, 5 s so far');
  });

  it('can be paused and stopped while it is open, and resumed after', async () => {
    const running = await open({ progress });
    expect(buttons(running)).to.deep.equal(['Pause', 'Stop']);
    await page.user.click(running.getByRole('button', { name: 'Pause' }));
    await page.user.click(running.getByRole('button', { name: 'Stop' }));
    await page.until(() => expect(page.sent).to.have.length(2));
    expect(page.sent.map(({ method, path }) => `${method} ${path}`)).to.deep.equal([
      'POST /work/7/pause',
      'POST /work/7/stop',
    ]);
    page.clear();
    const paused = await open({ state: 'paused' });
    await page.user.click(paused.getByRole('button', { name: 'Go on' }));
    await page.until(() => expect(page.sent.map(({ path }) => path)).to.deep.equal(['/work/7/resume']));
    page.clear();
    expect(buttons(await open({ state: 'done' }))).to.deep.equal([]);
  });

  it('offers nothing to go on with where its build is gone', async () => {
    const view = await open({ state: 'stopped', build: '', subject: 'a build that was removed' });
    expect(buttons(view)).to.deep.equal([]);
  });

  it('says of a failure what can be done about it', async () => {
    const advices: [string, RegExp][] = [
      ['write failed: ENOSPC', /^Make room on the disk/],
      ['The source /games/x does not exist.', /^Bring the source back/],
      ['http://depot/ could not be reached: refused.', /^See whether the service runs/],
      ['connect ECONNREFUSED 127.0.0.1:3306', /^The database went away/],
      ['something odd', /^Try again: what was done before counts/],
    ];
    for (const [error, advice] of advices) {
      const view = await open({ state: 'failed', error, attempts: 2 });
      expect(view.getByRole('alert').textContent).to.equal(error);
      view.getByText(advice);
      view.getByText('Indexing: failed, attempt 2');
      page.clear();
    }
  });

  it('shows a short report open, and a long one to be opened', async () => {
    const short = await open({ state: 'done', report: { summary: 'Two are broken.', lines: ['a', 'b'] } });
    expect(short.getByRole('group').hasAttribute('open')).to.equal(true);
    page.clear();
    const lines = Array.from({ length: 40 }, (_, at) => `line ${at}`);
    const long = await open({ state: 'done', report: { summary: 'Many.', lines } });
    expect(long.getByRole('group').hasAttribute('open')).to.equal(false);
    long.getByText('40 lines');
  });

  it('changes its place in the queue while it waits', async () => {
    const view = await open({ state: 'waiting' });
    await page.user.click(view.getByRole('combobox', { name: 'Priority' }));
    await page.user.click(await view.findByRole('option', { name: 'Goes first' }));
    await page.until(() => expect(page.sent.map(({ body }) => body)).to.deep.equal([{ priority: 2 }]));
  });
});
