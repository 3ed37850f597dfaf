import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { setTimeout as sleep } from 'node:timers/promises';
import { indexJobsOf } from './support/jobs.ts';
import { claimJob, finishJob } from '../server/jobs/queue.ts';
import { addCheck } from '../server/maintenance/jobs.ts';
import { ownerName } from '../server/platform/process-mark.ts';
import { sign } from '../demo/pictures.ts';
import { TestHouse } from './support/worvel.ts';

/** Processes of a data folder: what is left of them when one of them dies, or when several do the same at once. */
describe('Processes', () => {
  const databasePid = (house: TestHouse): number =>
    Number.parseInt(
      (JSON.parse(readFileSync(house.path('data', 'database', 'running.json'), 'utf8')) as { mark: string })
        .mark,
      10,
    );
  const isRunning = (pid: number): boolean => {
    try {
      return !readFileSync(`/proc/${pid}/stat`, 'utf8').includes(') Z ');
    } catch {
      return false;
    }
  };

  describe('whose database dies', () => {
    const house = new TestHouse({ hasOwnMariadb: true });
    let url: string;
    before(async () => {
      await house.open();
      mkdirSync(house.path('game'));
      writeFileSync(house.path('game', 'a.png'), await sign('a', 32, [1, 2, 3], 'png'));
      url = await house.serve(house.port);
    });
    after(() => house.close());

    it('have it started again, and go on', async () => {
      const before = databasePid(house);
      process.kill(before, 'SIGKILL');
      let status = 0;
      for (let round = 0; round < 150 && status !== 200; round++) {
        await sleep(200);
        status =
          databasePid(house) === before
            ? 0
            : await fetch(`${url}/api/titles`).then(
                (answer) => answer.status,
                () => 0,
              );
      }
      expect(status).to.equal(200);
      expect(databasePid(house)).not.to.equal(before);
      await house.reopen();
      expect(await house.index(house.path('game'), 'Again', '1')).to.include({ files: 1 });
    });

    it('keep its temporary tables in its own folder', () => {
      const line = readFileSync(`/proc/${databasePid(house)}/cmdline`, 'latin1').split('\0');
      expect(line).to.include(`--tmpdir=${house.path('data', 'database', 'temporary')}`);
    });
  });

  describe('whose data folder is removed', () => {
    const house = new TestHouse({ hasOwnMariadb: true });
    before(() => house.open());

    it('end with a sentence, and leave no database behind', async () => {
      await house.serve(house.port);
      const pid = databasePid(house);
      await house.pool.end();
      rmSync(house.path('data'), { recursive: true, force: true });
      for (let round = 0; round < 200 && isRunning(pid); round++) await sleep(100);
      expect(isRunning(pid)).to.equal(false);
      expect(house.printed).to.include('is gone: there is nothing left to serve');
      for (const child of house.childProcesses)
        for (let round = 0; round < 100 && child.exitCode === null; round++) await sleep(100);
      expect(house.childProcesses.map(({ exitCode }) => exitCode)).to.deep.equal([1]);
      rmSync(house.root, { recursive: true, force: true });
    });
  });

  describe('that publish to one place', () => {
    const house = new TestHouse({ hasOwnMariadb: true });
    before(async () => {
      await house.open();
      await house.indexDemo();
    });
    after(() => house.close());

    it('go one after the other: the site is whole, and nothing of anybody else is touched', async () => {
      const out = house.path('site');
      for (const name of ['site.new', 'site.old']) {
        mkdirSync(house.path(name));
        writeFileSync(house.path(name, 'mine.txt'), 'somebody’s own');
      }
      let isDone = false;
      let gone = 0;
      const publishing = Promise.all(
        [1, 2, 3].map(() => house.run('publish', '--title', 'Mossline Ferry', '--out', out)),
      ).finally(() => (isDone = true));
      let wasThere = false;
      while (!isDone) {
        const isThere = existsSync(`${out}/index.html`);
        if (wasThere && !isThere && !existsSync(`${out}/index.html`)) gone++;
        wasThere ||= isThere;
        await sleep(1);
      }
      for (const { code, errors } of await publishing) expect(code, errors).to.equal(0);
      expect(gone).to.be.at.most(2);
      for (const file of ['index.html', 'site/site.js', 'site/site.css', 'search/words.json', 'edition.json'])
        expect(existsSync(`${out}/${file}`), file).to.equal(true);
      for (const name of ['site.new', 'site.old'])
        expect(readFileSync(house.path(name, 'mine.txt'), 'utf8')).to.equal('somebody’s own');
      expect(
        readdirSync(house.root).filter((name) => /worvel-(writes|former)|\.lock$/.test(name)),
      ).to.deep.equal([]);
    });

    it('clear away what one of them left that was killed, and put back an edition that it took aside', async () => {
      const out = house.path('site');
      const dead = `${execFileSync('sh', ['-c', 'echo $$']).toString().trim()}-1`;
      mkdirSync(`${out}.worvel-writes-${dead}`);
      execFileSync('mv', [out, `${out}.worvel-former-${dead}`]);
      const { code } = await house.run('publish', '--title', 'Mossline Ferry', '--out', out);
      expect(code).to.equal(0);
      expect(readdirSync(house.root).filter((name) => name.includes('.worvel-'))).to.deep.equal([]);
    });

    it('and that check the store wait for whatever runs, whichever process asks', async () => {
      const [running] = await indexJobsOf(house, ['a', 'b']);
      expect(await claimJob(house.pool, ownerName(), running)).to.equal(running);
      const check = await addCheck(house.pool);
      // The command line's own way to run a job: it waits at the same gate.
      expect(await claimJob(house.pool, 'another-machine/1-1', check)).to.equal(null);
      await finishJob(house.pool, running ?? 0, { state: 'failed', error: 'no' });
      expect(await claimJob(house.pool, 'another-machine/1-1', check)).to.equal(check);
      const [next] = await indexJobsOf(house, ['c']);
      expect(await claimJob(house.pool, ownerName(), next)).to.equal(null);
    });
  });
});
