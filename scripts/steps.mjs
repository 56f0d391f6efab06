import { spawn } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync, mkdirSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { createRequire } from 'node:module';
import { delimiter, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Steps that `demo` and `verify` share: installing and building, each only when something has changed. */

export const root = fileURLToPath(new URL('..', import.meta.url));
const marks = join(root, '.cache');

export function fail(message) {
  process.stderr.write(`${message}\n`);
  process.exit(1);
}

/** Runs a command in the project's folder. `quiet` keeps its output for when it fails. */
export function run(command, args, { quiet = false, env = {}, seconds = 0 } = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, {
      cwd: root,
      // A group of its own where it has a time limit: what it has started ends with it.
      detached: seconds > 0,
      env: { ...process.env, ...env },
      stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 'inherit', 'inherit'],
    });
    let output = '';
    child.stdout?.on('data', (text) => (output += text));
    child.stderr?.on('data', (text) => (output += text));
    child.on('error', (error) => resolve({ status: 127, output: String(error) }));
    const limit = seconds > 0 && setTimeout(() => process.kill(-child.pid, 'SIGKILL'), 1000 * seconds);
    child.on('close', (status) => {
      clearTimeout(limit);
      resolve({ status, output });
    });
  });
}

function hashOf(files) {
  const hash = createHash('sha256');
  for (const file of files.sort()) {
    if (existsSync(file)) hash.update(relative(root, file)).update(readFileSync(file));
  }
  return hash.digest('hex');
}

function filesBelow(folder, wanted) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const path = join(folder, entry.name);
    if (entry.isDirectory())
      return ['node_modules', 'dist', '.cache', 'generated'].includes(entry.name)
        ? []
        : filesBelow(path, wanted);
    return wanted.test(entry.name) ? [path] : [];
  });
}

async function once(name, files, present, work) {
  const mark = join(marks, name);
  const hash = hashOf(files);
  const fresh = present() && existsSync(mark) && readFileSync(mark, 'utf8') === hash;
  if (fresh) return;
  await work();
  mkdirSync(marks, { recursive: true });
  writeFileSync(mark, hash);
}

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    fail(`Lurn needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
}

export function install() {
  return once(
    'installed',
    [join(root, 'package-lock.json')],
    () => existsSync(join(root, 'node_modules')),
    async () => {
      process.stdout.write('Installing packages ...\n');
      const { status, output } = await run('npm', ['ci', '--no-audit', '--no-fund'], { quiet: true });
      if (status !== 0) fail(`npm ci failed:\n${output}`);
    },
  );
}

export function build() {
  const sources = ['packages', 'apps'].flatMap((folder) =>
    filesBelow(join(root, folder), /\.(ts|tsx|css|html|svg|json|js|mjs)$/).filter(
      (f) => !f.endsWith('.test.ts'),
    ),
  );
  const results = [
    'packages/kernels/src/generated/module.ts',
    'apps/web/dist/index.html',
    'apps/server/dist/bundled/main.js',
  ];
  const built = () => results.every((file) => existsSync(join(root, file)));
  return once('built', [...sources, join(root, 'tsconfig.base.json')], built, async () => {
    process.stdout.write('Building ...\n');
    const { status, output } = await run('npm', ['run', 'build'], { quiet: true });
    if (status !== 0) fail(`The build failed:\n${output}`);
  });
}

/** Debian's Chromium: found, or installed where that is allowed. */
export async function chromium() {
  const places = [
    process.env.LURN_CHROMIUM,
    '/usr/bin/chromium',
    '/usr/bin/chromium-browser',
    '/usr/bin/google-chrome',
  ];
  const found = () => places.find((p) => p && existsSync(p) && statSync(p).isFile());
  if (found()) return found();
  const how = 'apt-get update && apt-get install -y --no-install-recommends chromium';
  if (process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    process.stdout.write('Installing Chromium for the interface tests ...\n');
    await run('sh', ['-c', how], { quiet: true, env: { DEBIAN_FRONTEND: 'noninteractive' } });
  }
  if (!found()) fail(`The interface tests need Chromium. Install it with:\n  sudo sh -c '${how}'`);
  return found();
}

const require = createRequire(import.meta.url);

/** The tools inside the npm packages, as the environment of whoever is to use these. */
export function packagedTools() {
  const [LURN_FFMPEG, LURN_FFPROBE] = ['ffmpeg', 'ffprobe'].map(
    (name) => require(`@${name}-installer/${name}`).path,
  );
  return { LURN_FFMPEG, LURN_FFPROBE };
}

/** The system's ffmpeg, found, or installed where that is allowed; null where there is none. */
export async function systemTools() {
  const found = () => {
    const places = (process.env.PATH ?? '').split(delimiter);
    const [LURN_FFMPEG, LURN_FFPROBE] = ['ffmpeg', 'ffprobe'].map((name) =>
      places.map((folder) => join(folder, name)).find((path) => existsSync(path)),
    );
    return LURN_FFMPEG && LURN_FFPROBE ? { LURN_FFMPEG, LURN_FFPROBE } : null;
  };
  if (!found() && process.getuid?.() === 0 && existsSync('/usr/bin/apt-get')) {
    process.stdout.write("Installing Debian's ffmpeg, to test with it too ...\n");
    const how = 'apt-get update && apt-get install -y --no-install-recommends ffmpeg';
    await run('sh', ['-c', how], { quiet: true, env: { DEBIAN_FRONTEND: 'noninteractive' } });
  }
  return found();
}

/** Such as "5.1.9-0+deb12u1". */
export async function versionOf({ LURN_FFMPEG }) {
  const { output } = await run(LURN_FFMPEG, ['-version'], { quiet: true });
  return /^ffmpeg version (\S+)/.exec(output)?.[1] ?? 'of no known version';
}
