import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import ts from 'typescript';
import { root } from './steps.mjs';

/** What ESLint does not see: files that import each other in a circle, and names of a package that nobody imports. */

/** Packages whose faces are named exports, each of them used by another package, a benchmark or a test of one. */
const FACES = ['core', 'model'];

const sources = ['packages', 'apps', 'bench', 'e2e', 'demo', 'scripts'].flatMap((folder) =>
  readdirSync(join(root, folder), { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && /\.(tsx?|mjs)$/.test(entry.name))
    .map((entry) => join(entry.parentPath, entry.name))
    .filter((path) => !/[\\/](node_modules|dist|generated)[\\/]/.test(path)),
);
const textOf = new Map(sources.map((path) => [path, readFileSync(path, 'utf8')]));

/** The source that an import of another leads to; null where it is none of ours. */
function fileOf(from, name) {
  if (!name.startsWith('.')) return null;
  const bare = resolve(dirname(from), name).replace(/\.js$/, '');
  return [bare, `${bare}.ts`, `${bare}.tsx`, join(bare, 'index.ts')].find((path) => textOf.has(path)) ?? null;
}

const imports = new Map(
  sources
    .filter((path) => !/\.test\.tsx?$/.test(path))
    .map((path) => {
      const { importedFiles } = ts.preProcessFile(textOf.get(path), true, false);
      return [
        path,
        [...new Set(importedFiles.map(({ fileName }) => fileOf(path, fileName)))].filter(Boolean),
      ];
    }),
);

/** The groups of files of which each leads to each other (Tarjan 1972). */
function circles() {
  const [index, low, open, found] = [new Map(), new Map(), [], []];
  const visit = (path) => {
    index.set(path, index.size);
    low.set(path, index.get(path));
    open.push(path);
    for (const next of imports.get(path) ?? []) {
      if (!index.has(next)) visit(next);
      if (open.includes(next)) low.set(path, Math.min(low.get(path), low.get(next)));
    }
    if (low.get(path) !== index.get(path)) return;
    const group = open.splice(open.indexOf(path));
    if (group.length > 1) found.push(group);
  };
  for (const path of imports.keys()) if (!index.has(path)) visit(path);
  return found;
}

/** The names that a package's entry exports and that no other package imports. */
function unused(name) {
  const entry = join(root, 'packages', name, 'src/index.ts');
  const tree = ts.createSourceFile(entry, textOf.get(entry), ts.ScriptTarget.ES2022);
  const exported = tree.statements.flatMap((s) => s.exportClause?.elements.map((e) => e.name.text) ?? ['*']);
  const named = new RegExp(`\\{([^{}]*)\\}\\s*from\\s*'@lurn/${name}(?:/\\w+)?'`, 'g');
  const used = new Set();
  for (const text of textOf.values())
    for (const [, list] of text.matchAll(named))
      for (const item of list.split(','))
        used.add(
          item
            .trim()
            .replace(/^type\s+/, '')
            .split(/\s/)[0],
        );
  return exported.filter((e) => !used.has(e));
}

const faults = [
  ...circles().map((group) => `A circle of files: ${group.map((p) => relative(root, p)).join(', ')}`),
  ...FACES.flatMap((name) =>
    unused(name).map((e) => `@lurn/${name} exports ${e}, which no other package imports.`),
  ),
];
for (const fault of faults) process.stderr.write(`${fault}\n`);
process.exitCode = faults.length > 0 ? 1 : 0;
