import { expect } from 'chai';
import type { ReactNode } from 'react';
import { noteRunSchema, noteSchema, type Note, type NoteRun } from '../../../contract/notes.ts';
import { TestPage } from '../../../tests/support/page.ts';

const at = { channel: 1, path: 'props/lantern.glb' };
const find = (build: string) => ({ does: 'find', build, path: at.path });

/** A note that is written, run and checked, without a server. */
describe('Parts of a note’s page', () => {
  const page = new TestPage();
  before(() => page.open());
  after(() => page.close());
  let run: NoteRun | null = null;
  let saved: unknown = null;
  const note = (more: object = {}): Note =>
    noteSchema.parse({ body: 'Mind the glass.', steps: [find('1')], revision: 4, savedAt: null, ...more });
  beforeEach(async () => {
    run = null;
    saved = null;
    page.answer = ({ path, method, body }) => {
      if (path.startsWith('/notes/runs')) {
        if (method === 'POST')
          return { status: 409, body: { error: 'This note is being run: wait for it, or stop it.' } };
        return { body: run ? [run] : [] };
      }
      if (path.startsWith('/notes/proposed')) return { body: [{ does: 'bring in', build: '1' }, find('1')] };
      if (path.startsWith('/notes/remarks'))
        return {
          body: [
            { step: 0, text: 'It does not say of which build.' },
            { step: null, text: 'In all.' },
          ],
        };
      if (path === '/notes' && method === 'PUT') {
        saved = body;
        return { status: 409, body: { error: 'Somebody else saved this note meanwhile.' } };
      }
      return { status: 404, body: { error: `no answer for ${path}` } };
    };
    const [{ store }, { api }] = await Promise.all([import('../../ui/store.ts'), import('../../ui/api.ts')]);
    store.dispatch(api.util.resetApiState());
  });
  afterEach(() => page.clear());

  const open = async (part: () => Promise<ReactNode>) => {
    const [{ store }, { Provider }, { MemoryRouter }, { PlaceContext }] = await Promise.all([
      import('../../ui/store.ts'),
      import('react-redux'),
      import('react-router'),
      import('../../ui/use-span.ts'),
    ]);
    const channel = { id: 1, name: 'main', builds: [] };
    const place = { channel, title: { id: 1, name: 'T', rights: '', channels: [channel] }, builds: [] };
    const shown = await part();
    return page.render(
      <Provider store={store}>
        <MemoryRouter>
          <PlaceContext.Provider value={place}>{shown}</PlaceContext.Provider>
        </MemoryRouter>
      </Provider>,
    );
  };
  const outcome = (verdict: string, sentence: string, proposed: unknown = null) => ({
    ...{ verdict, sentence, proposed, haulRun: null },
  });
  const runOf = (more: object): NoteRun =>
    noteRunSchema.parse({
      ...{ id: 1, channel: 1, path: at.path, build: '2', by: 'Ada', startedAt: '2026-05-01T10:00:00.000Z' },
      ...{ revision: 4, steps: [find('1')], jobs: [], outcomes: [] },
      ...more,
    });

  it('offer what is known and is not there yet, once', async () => {
    const { NoteEditor } = await import('./note-editor.tsx');
    const view = await open(async () => <NoteEditor note={note()} at={at} build="1" />);
    await page.user.click(view.getByRole('button', { name: 'Add the steps that are known of build 1' }));
    await view.findByText('Bring in build 1.');
    expect(view.getAllByText(/^Find /)).to.have.length(1);
    await view.findByText('All that is known is here.');
    await page.user.click(view.getByRole('button', { name: 'Remove step 1' }));
    expect(view.queryByText(/^Find /)).to.equal(null);
  });

  it('save from the revision that was read, and say who was faster', async () => {
    const { NoteEditor } = await import('./note-editor.tsx');
    const view = await open(async () => <NoteEditor note={note()} at={at} build="1" />);
    expect((view.getByRole('button', { name: 'Save the note' }) as HTMLButtonElement).disabled).to.equal(
      true,
    );
    await page.user.type(view.getByLabelText('Words of step 1'), 'Look twice.');
    await page.user.click(view.getByRole('button', { name: 'Save the note' }));
    await view.findByText('Somebody else saved this note meanwhile.');
    expect(saved).to.deep.include({ ...at, revision: 4, body: 'Mind the glass.' });
    expect((view.getByLabelText('Words of step 1') as HTMLTextAreaElement).value).to.equal('Look twice.');
    await page.user.click(view.getByRole('button', { name: 'Discard changes' }));
    expect((view.getByLabelText('Words of step 1') as HTMLTextAreaElement).value).to.equal('');
  });

  it('tell what came of each step, and take over what is proposed for the note that was run', async () => {
    const { RunPane } = await import('./run-pane.tsx');
    run = runOf({
      outcomes: [
        outcome('does not fit', 'It has moved to harbour/lantern.glb.', {
          ...find('2'),
          path: 'harbour/lantern.glb',
        }),
      ],
    });
    const view = await open(async () => <RunPane at={at} note={note()} />);
    await view.findByText('It has moved to harbour/lantern.glb.');
    await view.findByText('Proposed: Find harbour/lantern.glb in build 2.');
    await page.user.click(view.getByRole('button', { name: 'Take over what is proposed' }));
    await view.findByText('Somebody else saved this note meanwhile.');
    expect(saved).to.deep.include({ revision: 4 });
    expect((saved as { steps: { path: string }[] }).steps[0]?.path).to.equal('harbour/lantern.glb');
  });

  it('take nothing over into a note that was changed since, nor while it is at work', async () => {
    const { RunPane } = await import('./run-pane.tsx');
    run = runOf({ outcomes: [outcome('differs', 'Other bytes.', find('2'))] });
    const view = await open(async () => <RunPane at={at} note={note({ revision: 5 })} />);
    await view.findByText('The note was changed since: run it again first.');
    expect(
      (view.getByRole('button', { name: 'Take over what is proposed' }) as HTMLButtonElement).disabled,
    ).to.equal(true);
    page.clear();
    run = runOf({ outcomes: [outcome('running', 'It is being taken out.', find('2'))], jobs: [9] });
    const { store } = await import('../../ui/store.ts');
    const { api } = await import('../../ui/api.ts');
    store.dispatch(api.util.resetApiState());
    const working = await open(async () => <RunPane at={at} note={note()} />);
    await working.findByText(/^Running on build 2/);
    expect((working.getByRole('button', { name: 'Run it again' }) as HTMLButtonElement).disabled).to.equal(
      true,
    );
    expect(working.queryByRole('button', { name: 'Take over what is proposed' })).to.equal(null);
  });

  it('say why a note cannot be run now', async () => {
    const { RunPane } = await import('./run-pane.tsx');
    const view = await open(async () => <RunPane at={at} note={note()} />);
    await page.user.click(view.getByRole('button', { name: 'Run it again' }));
    await view.findByText('This note is being run: wait for it, or stop it.');
    page.clear();
    const none = await open(async () => <RunPane at={at} note={note({ steps: [] })} />);
    expect((none.getByRole('button', { name: 'Run it again' }) as HTMLButtonElement).disabled).to.equal(true);
  });

  it('list what a reader would stumble over, by step', async () => {
    const { RemarksPane } = await import('./remarks-pane.tsx');
    const view = await open(async () => <RemarksPane at={at} />);
    await view.findByText('Step 1: It does not say of which build.');
    await view.findByText('In all.');
  });
});
