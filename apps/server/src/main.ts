import { copyFile, readdir } from 'node:fs/promises';
import type { Server } from 'node:http';
import { join } from 'node:path';
import { LurnError } from '@lurn/core';
import { createApp } from './app.js';
import { Clips } from './clips/clips.js';
import { fullDisk, isFullDisk } from './common/full-disk.js';
import { PAGE, Settings } from './common/settings.js';

/** Starts the server; with LURN_DEMO a folder of clips is brought in on the first start. */
const settings = new Settings(undefined, process.env.LURN_WEB ?? PAGE);
const app = await createApp(settings).catch(cannotStart);
await app.listen(settings.port, settings.host).catch(cannotStart);

function cannotStart(error: unknown): never {
  const busy = (error as NodeJS.ErrnoException).code === 'EADDRINUSE';
  process.stderr.write(
    busy
      ? `Port ${settings.port} is taken: Lurn may be running already. Stop it, or set LURN_PORT.\n`
      : error instanceof LurnError || isFullDisk(error)
        ? `${isFullDisk(error) ? fullDisk().message : (error as Error).message}\n`
        : `Lurn could not start: ${(error as Error).message}\n`,
  );
  process.exit(1);
}

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => void end());
}

/** Ends well: no new requests, open pages let go, renders back to the queue, the database closed. */
async function end(): Promise<void> {
  const http = app.getHttpServer() as Server;
  http.close();
  http.closeAllConnections();
  await app.close().catch(() => undefined); // the hooks; the listener is closed already
  process.exit(0);
}

if (process.env.LURN_DEMO) await bringIn(process.env.LURN_DEMO);
process.stdout.write(`Lurn is at http://localhost:${settings.port} (Ctrl-C stops it)\n`);

async function bringIn(folder: string): Promise<void> {
  const clips = app.get(Clips);
  for (const file of (await readdir(folder)).filter((f) => f.endsWith('.mp4')).sort()) {
    const copy = join(settings.uploads, `demo-${file}`);
    await copyFile(join(folder, file), copy);
    await clips.takeOnce(copy, file);
  }
}
