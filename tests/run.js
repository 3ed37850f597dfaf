// Runs everything and closes with one line of counts. `./worvel test [PATTERN]` runs the tests whose names match.
import { spawnSync } from 'node:child_process';

const pattern = process.argv[2];
let passed = 0;
let failed = 0;

const check = (name, args) => {
  const { status } = spawnSync(process.execPath, args, { stdio: 'inherit' });
  console.log(`${status === 0 ? 'ok' : 'failed'}: ${name}`);
  if (status === 0) passed++;
  else failed++;
};

if (!pattern) {
  check('types', ['node_modules/typescript/bin/tsc', '--noEmit']);
  check('lint', ['node_modules/eslint/bin/eslint.js', '.']);
  check('format', ['node_modules/prettier/bin/prettier.cjs', '--check', '--log-level=warn', '.']);
}
const mocha = spawnSync(
  process.execPath,
  [
    'node_modules/mocha/bin/mocha.js',
    '--reporter',
    'tests/support/reporter.cjs',
    ...(pattern ? ['--grep', pattern] : []),
  ],
  { stdio: ['inherit', 'pipe', 'inherit'], encoding: 'utf8', maxBuffer: 2 ** 28 },
);
process.stdout.write(mocha.stdout);
const counts = /^counts (\d+) (\d+)$/m.exec(mocha.stdout);
passed += Number(counts?.[1] ?? 0);
failed += counts ? Number(counts[2]) : 1;
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
