import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { build } from 'esbuild';
import { root } from './steps.mjs';

/**
 * After the compiler: what runs in Node.js as a few files, each with what it uses of our packages. A process, and each of
 * its threads, would load some 400 modules otherwise, which takes about a second of a processor each time.
 */
const PROGRAMS = { server: ['main', 'worker-main'], cli: ['main'] };
/** How a thread or a process of its own is begun. */
const BEGINS = /threadFile\(import\.meta\.url, '(\.\/[\w-]+)'\)/g;

/** The files of threads and processes that are begun by the files below a folder. */
function threadsOf(folder) {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && entry.name.endsWith('.js') && !entry.parentPath.endsWith('bundled'))
    .map((entry) => join(entry.parentPath, entry.name))
    .flatMap((file) =>
      [...readFileSync(file, 'utf8').matchAll(BEGINS)].map(([, name]) => join(dirname(file), `${name}.js`)),
    );
}

/** Packages of others are loaded from where they are; one that has its place in a package of ours alone is found from there only. */
const packagesOfOthers = (app) => ({
  name: 'packages-of-others',
  setup({ onResolve, resolve }) {
    const reached = [root, join(root, 'apps', app)].map((folder) => join(folder, 'node_modules'));
    onResolve({ filter: /^[^./]/ }, async ({ path, kind, resolveDir, pluginData }) => {
      if (kind === 'entry-point' || path.startsWith('@lurn/') || pluginData === app) return null;
      const found = await resolve(path, { kind, resolveDir, pluginData: app });
      const outside = found.external || reached.some((folder) => found.path.startsWith(folder));
      return outside ? { path, external: true } : found;
    });
  },
});

for (const [app, mains] of Object.entries(PROGRAMS)) {
  const dist = join(root, 'apps', app, 'dist');
  // At the depth of any other module, and flat: from here the same places lead to a thread, and to the folders of the application.
  const outdir = join(dist, 'bundled');
  const files = [
    ...mains.map((name) => join(dist, `${name}.js`)),
    ...[dist, join(root, 'packages/engine/dist')].flatMap(threadsOf),
  ];
  rmSync(outdir, { recursive: true, force: true });
  await build({
    entryPoints: Object.fromEntries(files.map((file) => [basename(file, '.js'), file])),
    outdir,
    ...{ bundle: true, splitting: true, platform: 'node', format: 'esm', target: 'node20' },
    sourcemap: true,
    logLevel: 'error',
    plugins: [packagesOfOthers(app)],
  });
}
