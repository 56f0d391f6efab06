import { readdirSync, readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { root } from './steps.mjs';

/**
 * What the linter does not see: names of a package that nobody imports. These are the packages whose faces are named
 * exports, each of them used by another package, a benchmark or a test of one.
 */
const FACES = {
  core: [
    'index.ts',
    ...readdirSync(join(root, 'packages/core/src/entries')).map((name) => join('entries', name)),
  ],
  model: ['index.ts'],
};

const sources = ['packages', 'apps', 'bench', 'e2e', 'demo', 'scripts'].flatMap((folder) =>
  readdirSync(join(root, folder), { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && /\.(tsx?|mjs)$/.test(entry.name))
    .map((entry) => join(entry.parentPath, entry.name))
    .filter((path) => !/[\\/](node_modules|dist|generated)[\\/]/.test(path)),
);
const textOf = new Map(sources.map((path) => [path, readFileSync(path, 'utf8')]));

/** The names in `a, type b, c as d`: of what is imported, or as what it is exported. */
const namesIn = (list, of = (name) => name) =>
  list
    .split(',')
    .map((item) => item.trim().replace(/^type\s+/, ''))
    .filter(Boolean)
    .map((item) => of(...item.split(/\s+as\s+/)));

/** The names that a package's entry exports and that no other package imports from it. */
function unused(name, file) {
  const entry = join(root, 'packages', name, 'src', file);
  const exported = [...textOf.get(entry).matchAll(/export\s+(?:type\s+)?(?:\{([^{}]*)\}|\*)/g)].flatMap(
    ([, list]) => namesIn(list ?? '*', (name, as) => as ?? name),
  );
  const from = file === 'index.ts' ? name : `${name}/${basename(file, '.ts')}`;
  const named = new RegExp(`\\{([^{}]*)\\}\\s*from\\s*'@lurn/${from}'`, 'g');
  const used = new Set();
  for (const text of textOf.values())
    for (const [, list] of text.matchAll(named)) for (const one of namesIn(list)) used.add(one);
  return exported.filter((e) => !used.has(e));
}

const faults = Object.entries(FACES).flatMap(([name, files]) =>
  files.flatMap((file) =>
    unused(name, file).map((e) => `@lurn/${name}'s ${file} exports ${e}, which no other package imports.`),
  ),
);
for (const fault of faults) process.stderr.write(`${fault}\n`);
process.exitCode = faults.length > 0 ? 1 : 0;
