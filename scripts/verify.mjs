import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build, checkNode, chromium, install, root, run } from './steps.mjs';

/** `npm run verify`: lint, types, unit and interface tests. The last line is `N passed, N failed`. */
const results = join(root, '.cache');
let passed = 0;
let failed = 0;

function count(name, good, bad) {
  passed += good;
  failed += bad;
  process.stdout.write(`-- ${name}: ${good} passed, ${bad} failed\n`);
}

async function check(name, command, args) {
  const { status } = await run(command, args);
  count(name, status === 0 ? 1 : 0, status === 0 ? 0 : 1);
}

/** Counts tests from a reporter's JSON; a run that wrote none counts as one failure. */
async function tests(name, command, args, file, read, env = {}) {
  rmSync(file, { force: true });
  const { status } = await run(command, args, { env });
  try {
    const [good, bad] = read(JSON.parse(readFileSync(file, 'utf8')));
    count(name, good, bad > 0 || status === 0 ? bad : 1);
  } catch {
    count(name, 0, 1);
  }
}

checkNode();
await install();
await build();
process.env.LURN_CHROMIUM = await chromium();
await check('lint', 'npx', ['eslint', '.']);
await check('format', 'npx', ['prettier', '--check', '--log-level', 'warn', '.']);
await check('types', 'npm', ['run', '--silent', 'types']);
const unit = join(results, 'unit.json');
await tests('unit tests', 'npx', ['jest', '--json', `--outputFile=${unit}`], unit, (r) => [
  r.numPassedTests,
  r.numFailedTests + r.numRuntimeErrorTestSuites,
]);
const face = join(results, 'interface.json');
await tests(
  'interface tests',
  'npx',
  ['playwright', 'test', '-c', 'e2e/playwright.config.ts', '--reporter=line,json'],
  face,
  (r) => [r.stats.expected, r.stats.unexpected + r.stats.flaky],
  { PLAYWRIGHT_JSON_OUTPUT_NAME: face },
);
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 ? 0 : 1);
