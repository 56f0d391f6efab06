import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import {
  build,
  checkNode,
  chromium,
  install,
  packagedTools,
  root,
  run,
  systemTools,
  versionOf,
} from './steps.mjs';

/** `npm run verify`: lint, types, unit and interface tests. The last line is `N passed, N failed`. */
const results = join(root, '.cache');
let passed = 0;
let failed = 0;

function count(name, good, bad) {
  passed += good;
  failed += bad;
  process.stdout.write(`-- ${name}: ${good} passed, ${bad} failed\n`);
}

/** No check takes nearly so long; a formatter that waited for itself for ever has been seen. */
const CHECK_SECONDS = 240;

/** Checks that say what is wrong only where something is: side by side, for each takes one processor. */
async function checks(list) {
  await Promise.all(
    list.map(async ([name, command, args]) => {
      const look = () => run(command, args, { quiet: true, seconds: CHECK_SECONDS });
      let { status, output } = await look();
      if (status === null) {
        process.stdout.write(`-- ${name} did not end within ${CHECK_SECONDS} s; once more\n`);
        ({ status, output } = await look());
      }
      if (status !== 0) process.stdout.write(output);
      count(name, status === 0 ? 1 : 0, status === 0 ? 0 : 1);
    }),
  );
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

/** Unit tests with one ffmpeg; of those that use it alone where `only` says so. */
async function unitTests(name, tools, only = []) {
  const file = join(results, `${only.length > 0 ? 'tools' : 'unit'}.json`);
  const args = ['jest', '--json', `--outputFile=${file}`, ...only];
  await tests(
    `${name}, ffmpeg ${await versionOf(tools)}`,
    'npx',
    args,
    file,
    (r) => [r.numPassedTests, r.numFailedTests + r.numRuntimeErrorTestSuites],
    tools,
  );
}

/** Where it matters which ffmpeg there is: what it reads and, above all, what it writes. */
const BY_TOOLS = [
  'render/(other-streams|depth|parts|sound-step)',
  ...['formats/', 'rendering', 'conform', 'quirks', 'reading', 'working-copy'],
].map((part) => `packages/engine/src/${part}`);

const start = Date.now();
checkNode();
await install();
await build();
process.env.LURN_CHROMIUM = await chromium();
const system = await systemTools();
const begun = Date.now();
await checks([
  ['lint', 'npx', ['oxlint', '-c', 'oxlint.config.mjs', '--deny-warnings']],
  ['structure', 'node', ['scripts/structure.mjs']],
  ['format', 'npx', ['oxfmt', '--check']],
  ['types', 'npm', ['run', '--silent', 'types']],
]);
await unitTests('unit tests', packagedTools());
if (system) await unitTests("the system's tools", system, BY_TOOLS);
else process.stdout.write('-- There is no ffmpeg of the system here: its formats are not tested.\n');
const face = join(results, 'interface.json');
await tests(
  'interface tests',
  'npx',
  ['playwright', 'test', '-c', 'e2e/playwright.config.ts', '--reporter=line,json'],
  face,
  (r) => [r.stats.expected, r.stats.unexpected + r.stats.flaky],
  { PLAYWRIGHT_JSON_OUTPUT_NAME: face },
);
const minutes = (since) => ((Date.now() - since) / 60_000).toFixed(1);
process.stdout.write(`-- ${minutes(begun)} min, ${minutes(start)} with installing and building\n`);
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 ? 0 : 1);
