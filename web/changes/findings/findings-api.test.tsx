import { expect } from 'chai';
import { useState, type ReactNode } from 'react';
import { findingsQuerySchema, type FindingsQuery } from '../../../contract/findings.ts';
import { noPassState } from '../../../contract/pass.ts';
import { TestPage, type SentRequest } from '../../../tests/support/page.ts';

/** Findings around what is in view, and paths of those that never were. */
describe('findings of a page', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  afterEach(() => page.clear());

  const total = 1230;
  let evidence: 'done' | 'reading' = 'done';
  let newestFacts = 0;
  const finding = (index: number) => ({
    path: `f/${index}.png`,
    oldPath: null,
    status: 'added',
    kind: 'picture',
    format: 'png',
    oldFormat: 'png',
    size: 10,
    oldSize: null,
    hash: null,
    oldHash: null,
    evidence: '',
    facts: null,
    oldFacts: null,
    hasPreview: false,
    hasOldPreview: false,
    pass: noPassState,
    remarks: 0,
    hasNote: false,
    foldedBy: null,
    likeness: null,
    carriedFrom: null,
    extent: null,
    nature: null,
    differencePicture: null,
    isComparable: false,
  });
  const answer = ({ path }: SentRequest) => {
    const parameters = new URLSearchParams(path.slice(path.indexOf('?')));
    const [offset, limit] = [Number(parameters.get('offset')), Number(parameters.get('limit'))];
    const found = Array.from({ length: Math.max(0, Math.min(limit, total - offset)) }, (_, at) =>
      finding(offset + at),
    );
    if (path.startsWith('/findings/paths')) return { body: { paths: found.map((one) => one.path) } };
    const counts = { added: total, removed: 0, changed: 0, moved: 0, copied: 0, repacked: 0 };
    return {
      body: {
        summary: { ...counts, unchanged: 0, leftOut: 0 },
        kinds: { picture: total },
        marks: { open: total, kept: 0, aside: 0, done: 0 },
        carried: 0,
        revision: 0,
        people: [],
        labels: [],
        folds: [],
        folderMoves: [],
        evidence: { state: evidence, job: null },
        asOf: Number(parameters.get('asOf') ?? newestFacts),
        newestFacts,
        total,
        offset,
        findings: found,
      },
    };
  };
  const query: FindingsQuery = findingsQuerySchema.parse({ channel: 1, from: '0.1', to: '0.2' });

  async function open<Value>(use: () => Value): Promise<{ current: Value }> {
    const [{ store }, { Provider }] = await Promise.all([import('../../ui/store.ts'), import('react-redux')]);
    const seen: { current: Value | null } = { current: null };
    function Part(): ReactNode {
      seen.current = use();
      return null;
    }
    page.render(
      <Provider store={store}>
        <Part />
      </Provider>,
    );
    return seen as { current: Value };
  }
  const offsets = (): number[] =>
    page.sent.map(({ path }) => Number(new URLSearchParams(path.slice(path.indexOf('?'))).get('offset')));

  it('come by the page, of the two that are in view', async () => {
    page.answer = answer;
    const { useFindingsWindow } = await import('./api.ts');
    const window = await open(() => useFindingsWindow(query, 190, 210));
    await page.until(() => expect(window.current.at(200)?.path).to.equal('f/200.png'));
    await page.until(() => expect(window.current.at(199)?.path).to.equal('f/199.png'));
    expect(window.current.at(400)).to.equal(undefined);
    expect(offsets().sort((a, b) => a - b)).to.deep.equal([0, 200]);
    expect(window.current.page?.total).to.equal(total);
  });

  it('are known by their paths from one place to another, asked for at once', async () => {
    page.answer = answer;
    const { usePathsBetween } = await import('./api.ts');
    const between = await open(() => usePathsBetween({ ...query, text: 'f' }));
    let paths: string[] = [];
    await page.act(async () => void (paths = await between.current(100, 1150)));
    expect(paths).to.have.length(1051);
    expect([paths[0], paths.at(-1)]).to.deep.equal(['f/100.png', 'f/1150.png']);
    expect(offsets()).to.deep.equal([100]);
  });

  it('end where the list ends, however far somebody wants to go', async () => {
    page.answer = answer;
    const { usePathsBetween } = await import('./api.ts');
    const between = await open(() => usePathsBetween({ ...query, text: 'g' }));
    let paths: string[] = [];
    await page.act(async () => void (paths = await between.current(1228, 1600)));
    expect(paths).to.deep.equal(['f/1228.png', 'f/1229.png']);
  });

  it('say why they do not come', async () => {
    page.answer = () => ({ status: 400, body: { error: 'the query makes no sense' } });
    const { usePathsBetween } = await import('./api.ts');
    const between = await open(() => usePathsBetween({ ...query, text: 'h' }));
    let refused: unknown;
    await page.act(async () => {
      await between.current(0, 10).catch((error: unknown) => (refused = error));
    });
    expect(JSON.stringify(refused)).to.include('the query makes no sense');
  });

  it('keep their order once somebody goes through them while facts come in, without being fetched again', async () => {
    page.answer = answer;
    [evidence, newestFacts] = ['reading', 7];
    const [{ useFindingsWindow }, { useKeepOrder, useKeptFacts }] = await Promise.all([
      import('./api.ts'),
      import('./use-steady-facts.ts'),
    ]);
    const question = { ...query, text: 'steady' };
    let isUntouched = true;
    let redraw = (): void => undefined;
    const list = await open(() => {
      const [, draw] = useState(0);
      redraw = () => draw((count) => count + 1);
      const kept = useKeptFacts(question.text);
      const window = useFindingsWindow(
        kept[0] === undefined ? question : { ...question, asOf: kept[0] },
        0,
        10,
      );
      useKeepOrder(question, window.pages, isUntouched, kept);
      return { window, kept };
    });
    await page.until(() => expect(list.current.window.page?.asOf).to.equal(7));
    expect(list.current.kept[0]).to.equal(undefined);
    const fetched = page.sent.length;
    isUntouched = false;
    await page.act(() => redraw());
    await page.until(() => expect(list.current.kept[0]).to.equal(7));
    expect(list.current.window.page?.total).to.equal(total);
    expect(page.sent).to.have.length(fetched);
    // Newer ones are known of, and shown when somebody asks.
    newestFacts = 9;
    await page.act(() => list.current.window.refetch());
    await page.until(() => expect(list.current.window.page?.newestFacts).to.equal(9));
    expect(list.current.window.page?.asOf).to.equal(7);
    await page.act(() => list.current.kept[1](9));
    await page.until(() => expect(list.current.window.page?.asOf).to.equal(9));
  });
});
