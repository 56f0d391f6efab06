import { existsSync, mkdirSync, readdirSync, readlinkSync, renameSync } from 'node:fs';
import { createRequire } from 'node:module';
import { constants, setPriority } from 'node:os';
import { basename, dirname, extname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/**
 * The file of a thread: the built one beside a built file. Beside a source (tests, benchmarks) the thread's own source is
 * bundled with those of the packages that it uses, so that none of them has to be built first.
 *
 * @param from  `import.meta.url` of whoever starts it
 * @param name  of the thread's file from there, without its extension
 */
export function threadFile(from: string, name: string): string {
  const ending = extname(from);
  const file = fileURLToPath(new URL(name + ending, from));
  return ending === '.ts' ? bundled(file) : file;
}

const bundles = new Map<string, string>();

function bundled(file: string): string {
  let made = bundles.get(file);
  if (!made) {
    const require = createRequire(file);
    const { buildSync } = require('esbuild') as {
      buildSync: (options: object) => unknown;
    };
    const packages = dirname(dirname(require.resolve('esbuild/package.json')));
    const own = join(packages, '.cache/lurn-threads', `${process.pid}-${bundles.size}`);
    // Where many processes of one state of the sources follow each other, as tests do, they share what one has made.
    const { LURN_THREADS: kept } = process.env;
    const folder = kept ? join(kept, file.replace(/\W+/g, '-')) : own;
    made = join(folder, basename(file, '.ts') + '.mjs');
    bundles.set(file, made);
    if (kept && existsSync(made)) return made;
    // The threads beside it come along: it may start them in turn.
    const beside = readdirSync(dirname(file)).filter((name) => name.endsWith('-thread-entry.ts'));
    buildSync({
      ...{
        entryPoints: [...new Set([file, ...beside.map((name) => join(dirname(file), name))])],
        outdir: own,
        outExtension: { '.js': '.mjs' },
        bundle: true,
        platform: 'node',
        format: 'esm',
        target: 'node20',
      },
      conditions: ['source'],
      external: ['@ffmpeg-installer/*', '@ffprobe-installer/*', 'sharp', '@napi-rs/canvas'],
      // What is bundled of CommonJS asks for these.
      banner: {
        js: "import { createRequire as __r } from 'node:module'; const require = __r(import.meta.url);",
      },
      logLevel: 'error',
    });
    if (kept) share(own, folder);
  }
  return made;
}

/** Puts what was made where others look for it, unless another has been quicker. */
function share(made: string, folder: string): void {
  mkdirSync(dirname(folder), { recursive: true });
  try {
    renameSync(made, folder);
  } catch (error) {
    if (!existsSync(folder)) throw error;
  }
}

/**
 * Lets the thread that calls this, and what it starts from then on, give way to all others, where the system counts
 * threads as it does processes.
 */
export function giveWay(): void {
  try {
    // Linux: "PID/task/TID".
    setPriority(Number(readlinkSync('/proc/thread-self').split('/')[2]), constants.priority.PRIORITY_LOW);
  } catch {
    // Elsewhere it shares as all do.
  }
}
