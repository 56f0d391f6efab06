import { existsSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { root, run } from './steps.mjs';

/**
 * `npm run check [REVISION]`: lint, format, types and the unit tests beside what has changed, since a revision or since
 * the last commit. It is for between two changes; `npm run verify` is for what is handed on.
 */
const since = process.argv[2] ?? 'HEAD';
const git = async (...args) => {
  const { status, output } = await run('git', args, { quiet: true });
  if (status !== 0) throw new Error(output);
  return output.split('\n').filter(Boolean);
};
const changed = [
  ...new Set([
    ...(await git('diff', '--name-only', '--diff-filter=d', since)),
    ...(await git('ls-files', '--others', '--exclude-standard')),
  ]),
].filter((file) => existsSync(join(root, file)));
const code = changed.filter((file) => /\.(ts|tsx|js|mjs)$/.test(file));
const folders = [...new Set(code.filter((f) => /^(packages|apps|demo)\//.test(f)).map(dirname))];
const tests = folders.flatMap((folder) =>
  readdirSync(join(root, folder))
    .filter((name) => /\.test\.tsx?$/.test(name))
    .map((name) => join(folder, name)),
);
let failed = 0;
async function step(name, args, command = 'npx') {
  const { status, output } = await run(command, args, { quiet: true });
  process.stdout.write(
    `${status === 0 ? 'fine' : output}\n-- ${name}: ${status === 0 ? 'passed' : 'FAILED'}\n`,
  );
  failed += status === 0 ? 0 : 1;
}
process.stdout.write(`${changed.length} files have changed since ${since}.\n`);
if (code.length > 0) {
  await step('structure', ['scripts/structure.mjs'], 'node');
  await step('lint', ['oxlint', '-c', 'oxlint.config.mjs', '--deny-warnings']);
  await step('types', ['run', '--silent', 'types'], 'npm');
}
if (changed.length > 0) await step('format', ['oxfmt', '--check']);
if (tests.length > 0) await step(`${tests.length} files of tests`, ['jest', ...tests]);
process.exit(failed === 0 ? 0 : 1);
