import { expect } from 'chai';
import type { ReactNode } from 'react';
import { TestPage, type SentRequest } from '../../tests/support/page.ts';
import type { Contents, ContentsQuery } from './use-contents.ts';

/** What is in a folder or answers to a search, page by page. */
describe('useContents', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  afterEach(() => page.clear());

  const query: ContentsQuery = {
    channel: 1,
    build: '0.2',
    isEverywhere: false,
    path: '',
    text: '',
    kind: '',
    sort: 'path',
    down: '0',
  };
  const asset = (index: number) => ({
    path: `f/${index}.png`,
    build: '0.2',
    kind: 'picture',
    format: 'png',
    byExtension: false,
    size: 10,
    hash: null,
    hasPreview: false,
    reason: null,
    figures: {},
    firstSeen: '0.1',
    change: null,
    why: 'its name',
  });
  const answerList = ({ path }: SentRequest) => {
    const parameters = new URLSearchParams(path.slice(path.indexOf('?')));
    const [offset, limit] = [Number(parameters.get('offset')), Number(parameters.get('limit'))];
    const assets = Array.from({ length: Math.max(0, Math.min(limit, 450 - offset)) }, (_, at) =>
      asset(offset + at),
    );
    return { body: { total: 450, isCut: false, assets } };
  };
  const open = async (wanted: Partial<ContentsQuery>): Promise<{ current: Contents }> => {
    const [{ useContents }, { store }] = await Promise.all([
      import('./use-contents.ts'),
      import('../ui/store.ts'),
    ]);
    const { Provider } = await import('react-redux');
    const seen: { current: Contents | null } = { current: null };
    function Part(): ReactNode {
      seen.current = useContents({ ...query, ...wanted });
      return null;
    }
    page.render(
      <Provider store={store}>
        <Part />
      </Provider>,
    );
    await page.until(() => expect(seen.current?.isLoading).to.equal(false));
    return seen as { current: Contents };
  };

  it('loads pages as they are looked at, each once', async () => {
    page.answer = answerList;
    const contents = await open({ text: 'gru' });
    expect(contents.current.total).to.equal(450);
    expect(contents.current.at(3)?.path).to.equal('f/3.png');
    expect(contents.current.at(300)).to.equal(undefined);
    await page.act(() => contents.current.load(190, 410));
    expect(contents.current.at(410)?.path).to.equal('f/410.png');
    await page.act(() => contents.current.load(0, 449));
    expect(page.sent.map(({ path }) => new URLSearchParams(path).get('offset')).sort()).to.deep.equal(
      ['200', '400', ...page.sent.filter(({ path }) => path.includes('offset=0&')).map(() => '0')].sort(),
    );
    expect(page.sent).to.have.length(3);
  });

  it('asks nothing for a query that is not finished, and says what is wrong with it', async () => {
    page.answer = answerList;
    for (const [text, reason] of [
      ['gru kind:', 'kind: needs a value'],
      ['gru kind:mod', '“mod” is no kind'],
      ['"white her', 'The quotation mark is not closed'],
      ['size:>12q', 'is no number'],
    ] as const) {
      const contents = await open({ text });
      const { error } = contents.current;
      expect(error && 'message' in error ? error.message : '', text).to.include(reason);
      page.clear();
    }
    expect(page.sent).to.deep.equal([]);
  });

  it('says what the server says, and asks again when it is told to', async () => {
    page.answer = () => ({ status: 500, body: { error: 'Something went wrong.' } });
    const contents = await open({ text: 'reed' });
    await page.until(() => expect(contents.current.error).to.deep.include({ status: 500 }));
    page.answer = answerList;
    await page.act(() => contents.current.retry());
    await page.until(() => expect(contents.current.total).to.equal(450));
    expect(contents.current.error).to.equal(undefined);
  });
});
