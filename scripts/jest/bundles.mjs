import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join, relative, sep } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { transformSync } from '@swc/core';
import { build } from 'esbuild';

/**
 * Before the unit tests: every file of tests as one script with what it imports of its own package, and every package as
 * one for the others. A file of tests would load some 200 modules otherwise, each through Jest, and calls from one
 * module to the other could not be inlined.
 */
const root = fileURLToPath(new URL('../..', import.meta.url));
const BUNDLES = join(root, '.cache/jest');
const GROUPS = ['packages', 'apps'].flatMap((folder) =>
  readdirSync(join(root, folder)).map((name) => join(folder, name)),
);

/** The source files of a folder. */
const sourcesOf = (folder) =>
  readdirSync(join(root, folder), { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && /\.tsx?$/.test(entry.name))
    .map((entry) => relative(root, join(entry.parentPath, entry.name)));

/** What stands in for modules does so through Jest's own registry: these are loaded file by file. */
const isBundled = (path) =>
  /\.test\.tsx?$/.test(path)
    ? !/\bjest\.(mock|doMock|isolateModules|resetModules)\b/.test(readFileSync(join(root, path), 'utf8'))
    : /^packages\/\w+\/src\/(index|testing\/whole)\.ts$/.test(path.split(sep).join('/'));

/** Where a module lies is told to it, for in a bundle it lies elsewhere; decorators tell the types that they decorate. */
const asWritten = {
  name: 'as-written',
  setup({ onLoad }) {
    onLoad({ filter: /[\\/](packages|apps)[\\/].*\.tsx?$/ }, ({ path }) => {
      const source = readFileSync(path, 'utf8');
      const loader = path.endsWith('x') ? 'tsx' : 'ts';
      const url = JSON.stringify(pathToFileURL(path).href);
      const placed = source.includes('import.meta.url') ? `const __moduleUrl = ${url}; ${source}` : source;
      if (!/^\s*@[A-Z]\w*\(/m.test(source)) return { contents: placed, loader };
      const { code } = transformSync(placed, {
        filename: path,
        sourceMaps: 'inline',
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', decorators: true, tsx: loader === 'tsx' },
          transform: { legacyDecorator: true, decoratorMetadata: true },
          keepClassNames: true,
        },
      });
      return { contents: code, loader: 'js' };
    });
  },
};

export default async function bundle() {
  const folders = GROUPS.map((group) => join(group, 'src'));
  const sources = folders.flatMap(sourcesOf);
  const hash = createHash('sha256').update(readFileSync(fileURLToPath(import.meta.url)));
  for (const path of sources) hash.update(`${path} ${statSync(join(root, path)).mtimeMs}`);
  const mark = hash.digest('hex');
  // Threads of the sources are bundled once for all files of tests.
  process.env.LURN_THREADS = join(BUNDLES, 'threads', mark);
  const marked = join(BUNDLES, 'mark');
  try {
    if (readFileSync(marked, 'utf8') === mark) return;
  } catch {
    // None are there yet.
  }
  rmSync(BUNDLES, { recursive: true, force: true });
  await build({
    absWorkingDir: root,
    entryPoints: sources.filter(isBundled),
    outdir: BUNDLES,
    outbase: root,
    bundle: true,
    format: 'cjs',
    platform: 'node',
    packages: 'external',
    target: 'es2022',
    jsx: 'automatic',
    keepNames: true,
    sourcemap: 'external',
    logLevel: 'error',
    define: { 'import.meta.env': '{}', 'import.meta.url': '__moduleUrl' },
    tsconfigRaw: { compilerOptions: { experimentalDecorators: true, useDefineForClassFields: true } },
    plugins: [asWritten],
  });
  writeFileSync(marked, mark);
}
