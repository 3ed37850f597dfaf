import { expect } from 'chai';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import sharp from 'sharp';
import {
  findingsPageSchema,
  type EvidenceLine,
  type Finding,
  type FindingsPage,
  type Summary,
} from '../contract/findings.ts';
import { newsSchema } from '../contract/news.ts';
import { noiseStateSchema, noiseTrialSchema } from '../contract/noise.ts';
import {
  passEventSchema,
  passOutcomeSchema,
  remarksSchema,
  type PassChange,
  type PassOutcome,
} from '../contract/pass.ts';
import { assetSchema, comparedStatesSchema } from '../contract/assets.ts';
import { putDemoBuild } from './support/demo-builds.ts';
import { selectOne } from '../server/platform/database/rows.ts';
import { madeUpdate } from './support/made-update.ts';
import { EventReader } from './support/event-reader.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Mossline Ferry';

/** What a new build changed, from the command line and from the server: two builds of the invented game, then more. */
describe('What changed', () => {
  const house = new TestHouse();
  let url = '';
  let channel = 0;
  before(async () => {
    await house.open();
    await house.indexDemo();
  });
  after(() => house.close());

  const span = ['--title', title, '--from', '0.1', '--to', '0.2'];
  const evidence = async (): Promise<{ lines: EvidenceLine[]; summary: Summary }> => {
    const { code, output, errors } = await house.run('diff', ...span, '--evidence', '--json');
    expect(code, errors).to.equal(0);
    const lines = output
      .trimEnd()
      .split('\n')
      .map((line) => JSON.parse(line) as EvidenceLine | { summary: Summary });
    const last = lines.pop();
    if (!last || !('summary' in last)) throw new Error('no summary at the end');
    return { lines: lines as EvidenceLine[], summary: last.summary };
  };
  const get = async (path: string, query: Record<string, string | number>): Promise<unknown> => {
    const answer = await fetch(
      `${url}/api${path}?${new URLSearchParams(Object.entries(query).map(([key, value]) => [key, String(value)]))}`,
    );
    const body: unknown = await answer.json();
    if (!answer.ok) throw new Error(JSON.stringify(body));
    return body;
  };
  const send = async (
    method: string,
    path: string,
    body: unknown,
    by = '',
  ): Promise<{ status: number; body: unknown }> => {
    const answer = await fetch(`${url}/api${path}`, {
      method,
      headers: { 'content-type': 'application/json', cookie: `worvel_person=${by}` },
      body: JSON.stringify(body),
    });
    return { status: answer.status, body: await answer.json() };
  };
  const where = (): { channel: number; from: string; to: string } => ({ channel, from: '0.1', to: '0.2' });
  const page = async (query: Record<string, string> = {}): Promise<FindingsPage> =>
    findingsPageSchema.parse(await get('/findings', { ...where(), limit: 500, ...query }));
  const change = async (by: string, seen: number, what: PassChange, target: object): Promise<PassOutcome> =>
    passOutcomeSchema.parse(
      (await send('PUT', '/pass', { ...where(), seen, change: what, ...target }, by)).body,
    );
  const stateOf = async (path: string): Promise<Finding['pass']> => {
    const finding = (await page({ noise: 'all' })).findings.find((candidate) => candidate.path === path);
    if (!finding) throw new Error(`no finding at ${path}`);
    return finding.pass;
  };

  it('is told by the command line with how each thing differs, and compared but once', async () => {
    const { lines, summary } = await evidence();
    // What is alike is joined: it is neither gone nor new, but changed and at another path.
    const joined = lines.filter(({ likeness }) => likeness !== null).length;
    const made = await madeUpdate();
    expect(summary).to.include({
      ...made,
      added: made.added - joined,
      removed: made.removed - joined,
      changed: made.changed + joined,
    });
    const told = (path: string): string => lines.find((line) => line.path === path)?.evidence ?? '';
    expect(told('data/models.zip!/birds/gru_grey.glb')).to.match(
      /^The same shape, clip “nod” 2\.00 s → 3\.03 s, head up to \d+ mm elsewhere/,
    );
    expect(told('data/pictures.zip!/loading/fog.png')).to.equal('The same picture, 1.5 times as large.');
    expect(told('data/effects.zip!/bells/bell_fog.wav')).to.match(
      /^The same sound, 25 % lower in pitch \(49\d cents\)\.$/,
    );
    expect(told('definitions/lum_bow.ini')).to.equal('“lum_bow.burn_minutes” 80 → 95.');
    expect(told('maps/isle_market.json')).to.equal('4 gone.');
    expect(told('music/lamplight.wav')).to.equal(
      'The same sound, 4 s of something new at its end, loop 2.000 to 12.000 s instead of 2.000 to 8.000 s.',
    );
    expect(
      lines.filter(({ status, evidence: sentence }) => status === 'changed' && sentence === ''),
    ).to.deep.equal([]);
    // What is folded away says by which rule.
    expect(lines.filter(({ foldedBy }) => foldedBy !== null)).to.have.length(33);
    const counted = await selectOne<{ count: number }>(
      house.pool,
      'SELECT COUNT(*) AS count FROM comparisons',
    );
    await evidence();
    const jobs = await selectOne<{ count: number }>(
      house.pool,
      "SELECT COUNT(*) AS count FROM jobs WHERE kind = 'evidence'",
    );
    expect(jobs?.count).to.equal(1);
    expect(counted?.count).to.equal((await madeUpdate()).changed + joined);
  });

  it('is written as a report in three forms', async () => {
    const report = async (format: string): Promise<string> =>
      (await house.run('report', ...span, '--format', format)).output;
    const markdown = await report('md');
    expect(markdown).to.match(/^# Mossline Ferry, main: what changed from 0\.1 to 0\.2\n/);
    expect(markdown).to.match(/^\| \d+ \| added model \| data\/models\.zip!\/birds\/gru\\_white\.glb \|/m);
    const news = newsSchema.parse(JSON.parse(await report('json')));
    expect(news.families.map(({ name }) => name)).to.deep.equal(['gru_white']);
    expect(news.freshParts.map(({ part }) => part)).to.include('white');
    expect(news.strings.map(({ language, key }) => `${language} ${key}`)).to.deep.equal([
      'de birds.white',
      'en birds.white',
    ]);
    for (const { score, reasons } of news.news)
      expect(reasons.reduce((sum, { points }) => sum + points, 0)).to.equal(score);
    const html = await report('html');
    expect(html).to.match(/^<!doctype html>/);
    expect(html).to.include('<h2>New families</h2>');
    expect((await house.run('report', ...span, '--format', 'odt')).code).to.equal(2);
  });

  it('is served with counts of what each rule folds away, and all of it can be seen', async () => {
    url = await house.serve(house.port);
    const titles = (await get('/titles', {})) as { channels: { id: number }[] }[];
    channel = titles[0]?.channels[0]?.id ?? 0;
    const shown = await page();
    expect(shown.evidence.state).to.equal('done');
    expect([shown.total, shown.folds.reduce((sum, { hides }) => sum + hides, 0)]).to.deep.equal([42, 33]);
    for (const { key, hides } of shown.folds)
      if (hides > 0) expect((await page({ noise: key })).total, key).to.equal(hides);
    expect((await page({ noise: 'all' })).total).to.equal(75);
    expect(shown.folderMoves).to.deep.equal([{ from: 'ui/icons', to: 'interface/signs', files: 12 }]);
    expect((await page({ sort: 'news' })).findings[0]?.path).to.equal('maps/isle_white.json');
    expect((await page({ sort: 'extent' })).findings[0]?.status).to.equal('changed');
  });

  it('lets a rule be tried, kept and switched off', async () => {
    const test = { kinds: ['sound'], statuses: ['changed'] };
    const trial = noiseTrialSchema.parse((await send('POST', '/noise/try', { ...where(), test })).body);
    expect([trial.fits, trial.alone]).to.deep.equal([2, 2]);
    const refused = await send('POST', '/noise/try', { ...where(), test: {} });
    expect([refused.status, refused.body]).to.deep.equal([
      400,
      { error: 'test: A rule without a condition would hide everything: say what it is about.' },
    ]);
    const { rules, revision } = noiseStateSchema.parse(await get('/noise', { title: 1 }));
    const own = { key: 'own-1', name: 'Sounds', isOn: true, isBuiltIn: false, test };
    const saved = await send('PUT', '/noise', {
      title: 1,
      revision,
      rules: [...rules.map((rule) => ({ ...rule, isOn: rule.key !== 'repacked' })), own],
    });
    expect((await page()).total).to.equal(42 - 2 + 8);
    // Whoever still has the rules as they were overwrites nothing.
    const late = await send('PUT', '/noise', { title: 1, rules, revision });
    expect([late.status, late.body]).to.deep.equal([
      409,
      { error: 'Somebody else changed these meanwhile. Load them again, then change them.' },
    ]);
    await send('PUT', '/noise', { title: 1, rules, revision: noiseStateSchema.parse(saved.body).revision });
    expect((await page()).total).to.equal(42);
  });

  it('is gone through by two people who never overwrite each other unseen, and undone', async () => {
    const path = 'definitions/gru_white.ini';
    const before = (await page()).revision;
    const first = await change(
      'Ada',
      before,
      { mark: 'kept', addLabels: ['bird'], assignee: 'Bo' },
      { paths: [path] },
    );
    expect([first.changed, first.conflicts]).to.deep.equal([1, []]);
    // Bo has not seen it.
    const second = await change('Bo', before, { mark: 'aside' }, { paths: [path] });
    expect(second).to.deep.include({ batch: 0, changed: 0 });
    expect(second.conflicts[0]?.state).to.include({ mark: 'kept', changedBy: 'Ada', assignee: 'Bo' });
    const third = await change('Bo', first.batch, { mark: 'aside' }, { paths: [path] });
    expect(third.changed).to.equal(1);
    // Ada's undo leaves alone what Bo changed since.
    const undone = passOutcomeSchema.parse(
      (await send('POST', '/pass/undo', { ...where(), batch: first.batch }, 'Ada')).body,
    );
    expect([undone.changed, undone.conflicts.length]).to.deep.equal([0, 1]);
    const back = passOutcomeSchema.parse(
      (await send('POST', '/pass/undo', { ...where(), batch: third.batch }, 'Bo')).body,
    );
    expect(back.changed).to.equal(1);
    expect(await stateOf(path)).to.deep.include({ mark: 'kept', labels: ['bird'], assignee: 'Bo' });
    expect((await send('POST', '/pass/undo', { ...where(), batch: third.batch }, 'Bo')).status).to.equal(409);
  });

  it('is changed by filter and folder at once, with what others did meanwhile left alone', async () => {
    const seen = (await page()).revision;
    await change('Ada', seen, { mark: 'done' }, { paths: ['text/de/birds.json'] });
    const outcome = await change(
      'Bo',
      seen,
      { mark: 'aside' },
      { filter: { kind: 'text', status: 'changed' } },
    );
    expect(outcome.conflicts.map(({ path }) => path)).to.deep.equal(['text/de/birds.json']);
    expect(outcome.changed).to.equal((await page({ kind: 'text', status: 'changed' })).total - 1);
    const folder = await change(
      'Bo',
      (await page()).revision,
      { addLabels: ['signs'] },
      { filter: { folder: 'interface/signs' } },
    );
    expect(folder.changed).to.equal(2);
    expect((await page({ label: 'signs' })).total).to.equal(2);
    await send('POST', '/pass/undo', { ...where(), batch: outcome.batch }, 'Bo');
    expect((await page({ mark: 'aside' })).total).to.equal(0);
  });

  it('tells everybody of marks as they are made, and what came while somebody was away', async () => {
    const listen = (headers: Record<string, string> = {}): Promise<EventReader> =>
      EventReader.open(
        `${url}/api/events?${new URLSearchParams({ channel: String(channel), from: '0.1', to: '0.2' })}`,
        headers,
      );
    const [one, two] = [await listen(), await listen()];
    // Who listens is told of all jobs first.
    await one.next('jobs');
    const { batch } = await change('Ada', 1e9, { mark: 'kept' }, { paths: ['maps/isle_white.json'] });
    for (const reader of [one, two]) {
      const { data, id } = await reader.next('marks');
      const event = passEventSchema.parse(data);
      expect(id).to.equal(String(batch));
      expect(event).to.deep.include({ revision: batch, by: 'Ada', what: '1 finding kept' });
      expect(event.states?.['maps/isle_white.json']?.mark).to.equal('kept');
    }
    await one.close();
    const later = await listen({ 'last-event-id': String(batch - 1) });
    expect((await later.next('marks')).id).to.equal(String(batch));
    await two.close();
    await later.close();
  });

  it('keeps remarks with who said them', async () => {
    const said = await send(
      'POST',
      '/pass/remarks',
      { ...where(), path: 'maps/isle_white.json', body: 'Is this the festival?' },
      'Bo',
    );
    expect(remarksSchema.parse(said.body).map(({ body, saidBy }) => `${saidBy}: ${body}`)).to.deep.equal([
      'Bo: Is this the festival?',
    ]);
    expect((await page()).findings.find(({ path }) => path === 'maps/isle_white.json')?.remarks).to.equal(1);
    expect((await send('POST', '/pass/remarks', { ...where(), path: 'a', body: ' ' })).status).to.equal(400);
  });

  it('compares any two states, and says why where it cannot', async () => {
    const compared = async (oldPath: string, newPath: string) =>
      comparedStatesSchema.parse(
        await get('/compared', { channel, oldBuild: '0.1', oldPath, newBuild: '0.2', newPath }),
      );
    const two = await compared(
      'data/models.zip!/props/lum/lum_bow_l0.glb',
      'data/models.zip!/props/lum/lum_pier_l0.glb',
    );
    expect(two.comparison?.kind).to.equal('model');
    const odd = await compared('definitions/lum_bow.ini', 'music/lamplight.wav');
    expect(odd.reason).to.equal('ini and wav are not compared');
    const gone = assetSchema.parse(
      await get('/asset', { channel, build: '0.1', path: 'data/effects.zip!/steps/plank_6.wav' }),
    );
    expect(gone.history.map(({ build, what }) => `${build} ${what}`)).to.deep.equal([
      '0.1 appeared',
      '0.2 vanished',
    ]);
    const missing = await compared('nowhere.png', 'music/lamplight.wav').catch(String);
    expect(missing).to.include('The build 0.1 has no asset at nowhere.png.');
  });

  it('finds what was renamed and changed at once; a person parts and joins it; what was open carries over', async () => {
    const build = house.path('0.2b');
    await putDemoBuild('0.2', build);
    const move = async (from: string, to: string): Promise<void> => {
      const bytes = readFileSync(`${build}/${from}`);
      mkdirSync(dirname(`${build}/${to}`), { recursive: true });
      writeFileSync(`${build}/${from}`, '');
      // Somewhat darker, and of another name.
      writeFileSync(`${build}/${to}`, await sharp(bytes).linear(0.93, 0).png().toBuffer());
    };
    await move('interface/signs/sg_whistle.png', 'interface/signs/sg_pipe.png');
    const { unlinkSync } = await import('node:fs');
    unlinkSync(`${build}/interface/signs/sg_whistle.png`);
    await house.index(build, title, '0.3');
    const next = { from: '0.2', to: '0.3' };
    for (let waited = 0; (await page(next)).evidence.state !== 'done' && waited < 200; waited++)
      await new Promise((resolve) => setTimeout(resolve, 200));
    const pair = (await page(next)).findings.find(({ path }) => path === 'interface/signs/sg_pipe.png');
    expect(pair).to.deep.include({ status: 'changed', oldPath: 'interface/signs/sg_whistle.png' });
    expect(pair?.likeness).to.include({ said: 'proposed' });
    expect(pair?.evidence).to.match(
      /It seems to be interface\/signs\/sg_whistle\.png \(\d+ %: looks \d+ % alike/,
    );
    const say = {
      channel,
      ...next,
      path: 'interface/signs/sg_pipe.png',
      oldPath: 'interface/signs/sg_whistle.png',
    };
    await send('PUT', '/findings/pairs', { ...say, said: 'parted' });
    expect((await page(next)).summary).to.include({ added: 1, removed: 1, changed: 0 });
    await send('PUT', '/findings/pairs', { ...say, said: 'joined' });
    expect((await page(next)).summary).to.include({ added: 0, removed: 0, changed: 1 });
    // What nobody dealt with from 0.1 to 0.2 stands with the next span, and is marked where it belongs.
    const open = (await page()).marks.open;
    const carried = await page({ ...next, mark: 'carried' });
    expect(
      carried.findings.every(({ carriedFrom }) => carriedFrom?.from === '0.1' && carriedFrom.to === '0.2'),
    ).to.equal(true);
    expect(carried.total).to.be.within(open - 1, open);
  });

  it('keeps what comparing found when a build goes, and lets nothing of it lie about', async () => {
    const count = async (): Promise<number> =>
      (await selectOne<{ count: number }>(house.pool, 'SELECT COUNT(*) AS count FROM comparisons'))?.count ??
      0;
    const before = await count();
    const { code, errors } = await house.run('remove', '--title', title, '--build', '0.1');
    expect(code, errors).to.equal(0);
    expect(await count()).to.be.below(before);
    expect((await house.run('check')).code).to.equal(0);
  });
});
