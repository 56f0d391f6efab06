import { createHash } from 'node:crypto';
import { readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import { DEMO_DATA, DEMO_MARK, READS_DEMO, root, TestServer } from './server.js';

/** What reads the demo shots, and what is read. */
const READ_BY = ['kernels', 'core', 'model', 'engine'].map((name) => `packages/${name}/dist`);
const FOLDERS = [...READ_BY, 'apps/server/dist', 'apps/server/drizzle', 'demo/shots'];

/**
 * Reads the demo shots once for all tests, and again only when anything that reads them has changed. Tests that do not
 * need them go on meanwhile; the others wait ({@link demoRead}).
 *
 * @returns what waits for the end of it
 */
export default async function setUp(): Promise<() => Promise<void>> {
  const hash = await hashOf(FOLDERS.map((folder) => join(root, folder)));
  if ((await readFile(DEMO_MARK, 'utf8').catch(() => null)) === hash) return () => Promise.resolve();
  for (const old of [DEMO_MARK, DEMO_DATA]) await rm(old, { recursive: true, force: true });
  const reading = readDemo(hash).catch((error: unknown) => writeFile(DEMO_MARK, `failed: ${String(error)}`));
  return () => reading;
}

async function readDemo(hash: string): Promise<void> {
  const server = await TestServer.start({ data: DEMO_DATA, env: READS_DEMO });
  // Known as wholes, too: otherwise every server would look at them anew.
  while ((await server.ready()).some((clip) => clip.shakiness === null)) await setTimeout(200);
  await server.down();
  await writeFile(DEMO_MARK, hash);
}

async function hashOf(folders: readonly string[]): Promise<string> {
  const hash = createHash('sha256');
  for (const folder of folders)
    for (const entry of (await readdir(folder, { withFileTypes: true, recursive: true })).sort((a, b) =>
      join(a.parentPath, a.name) < join(b.parentPath, b.name) ? -1 : 1,
    ))
      if (entry.isFile()) hash.update(entry.name).update(await readFile(join(entry.parentPath, entry.name)));
  return hash.digest('hex');
}
