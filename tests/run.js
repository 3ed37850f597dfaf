// Runs everything and closes with one line of counts. `./worvel test [PATTERN]` runs the tests whose names match.
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { endProcessesOf } from '../bench/record/end-processes.js';

const pattern = process.argv[2];
let passed = 0;
let failed = 0;

/** All that tests write lies in one folder, by which what they started is known too. */
const house = mkdtempSync(join(tmpdir(), 'worvel-test-run-'));

/** Ends what a test left running, whatever failed, and takes the folder away. */
const cleanUp = () => {
  endProcessesOf(house);
  rmSync(house, { recursive: true, force: true, maxRetries: 10, retryDelay: 100 });
};
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    cleanUp();
    process.exit(1);
  });

/** Runs a program of Node.js to its end. @returns its exit code, and what it printed where that is asked for */
const run = (args, stdout) =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, args, {
      stdio: ['ignore', stdout, 'inherit'],
      // Programs of pictures use every core as if it were theirs alone, and wait for one another in loops.
      env: {
        ...process.env,
        ...{ TMPDIR: house, WORVEL_TEST_RUN: house, OMP_NUM_THREADS: '1', MAGICK_THREAD_LIMIT: '1' },
      },
    });
    const printed = [];
    child.stdout?.on('data', (piece) => printed.push(piece));
    child.on('close', (code) => resolve({ code, text: Buffer.concat(printed).toString('utf8') }));
  });

/** One after the other, beside the tests: most of those wait for something half of the time. */
const checks = async () => {
  if (pattern) return;
  const code = await run(['tests/check-code.js'], 'inherit');
  const format = await run(
    ['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level=warn', '.'],
    'inherit',
  );
  console.log(`${format.code === 0 ? 'ok' : 'failed'}: format`);
  // Types, lint and format; what broke down altogether counts as one.
  const wrong = Math.max(0, code.code ?? 1) + (format.code === 0 ? 0 : 1);
  failed += wrong;
  passed += Math.max(0, 3 - wrong);
};

const tests = [
  'node_modules/mocha/bin/mocha.js',
  ...['--parallel', '--jobs', '3'],
  ...['--reporter', 'tests/support/reporter.cjs'],
];
const [{ text }] = await Promise.all([
  run([...tests, ...(pattern ? ['--grep', pattern] : [])], 'pipe'),
  checks(),
]);
process.stdout.write(text);
if (!pattern) {
  // By themselves, when all else is through: they take the time.
  const { code } = await run(['dist/node/cli.js', 'bench', 'all', '--quick'], 'inherit');
  console.log(`${code === 0 ? 'ok' : 'failed'}: quick benchmarks`);
  if (code === 0) passed++;
  else failed++;
}
cleanUp();
const counts = /^counts (\d+) (\d+)$/m.exec(text);
passed += Number(counts?.[1] ?? 0);
failed += counts ? Number(counts[2]) : 1;
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
