import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { ffmpegPath } from '@lurn/engine';
import type { ClipInfo, ClipSummary } from '@lurn/model';
import { sql } from 'drizzle-orm';
import { createApp } from '../app.js';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { clips } from '../database/schema.js';
import { JobStore } from '../jobs/job-store.js';
import { JobRunner } from '../jobs/runner.js';
import { Events } from '../events/events.js';

/** A folder of data that goes away with the test. */
export async function tempData(): Promise<{ data: string; remove: () => Promise<void> }> {
  const data = await mkdtemp(join(tmpdir(), 'lurn-server-'));
  return { data, remove: () => rm(data, { recursive: true, force: true }) };
}

/** Bytes of a real clip: 12 moving frames of 160 x 120. @param seed  others give other clips */
export function smallClip(folder: string, seed = 0): Promise<Buffer> {
  const source = `testsrc2=size=160x120:rate=25:duration=0.48,drawbox=x=${8 * seed}:w=6:h=6:t=fill`;
  return coded(join(folder, `small-${seed}.mp4`), source);
}

/** Bytes of a clip of 12 frames of 320 x 180 in which a textured wall shakes. */
export function shakingClip(folder: string): Promise<Buffer> {
  const wall = '128+50*sin(X/5+Y/17)*cos(Y/6)+40*sin(X*Y/400)';
  const size = 'nullsrc=size=400x220:rate=25:duration=0.48,format=gray';
  const shake = 'crop=320:180:20+4*mod(n\\,3):10+2*mod(n\\,2)';
  return coded(join(folder, 'shaking.mp4'), `${size},geq=lum='${wall}',${shake}`);
}

async function coded(file: string, source: string): Promise<Buffer> {
  const coding = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'ultrafast'];
  const run = promisify(execFile);
  await run(await ffmpegPath(), ['-y', '-v', 'error', '-f', 'lavfi', '-i', source, ...coding, file]);
  return readFile(file);
}

/** The whole server in this process, on a port of its own. */
export class TestApp {
  private constructor(
    readonly app: NestExpressApplication,
    readonly settings: Settings,
    readonly url: string,
  ) {}

  static async start(data: string): Promise<TestApp> {
    process.env.LURN_LOG = 'silent';
    const settings = new Settings(data);
    const app = await createApp(settings);
    await app.listen(0, '127.0.0.1');
    const { port } = (app.getHttpServer() as Server).address() as AddressInfo;
    return new TestApp(app, settings, `http://127.0.0.1:${port}`);
  }

  /** Ends it as Ctrl-C does. */
  async stop(): Promise<void> {
    (this.app.getHttpServer() as Server).closeAllConnections();
    await this.app.close();
  }

  get database(): Database {
    return this.app.get(Database);
  }

  async call(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<{ status: number; body: Record<string, unknown>; headers: Headers }> {
    const response = await fetch(`${this.url}/api${path}`, {
      method,
      headers: { 'Content-Type': 'application/json', ...headers },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    });
    const text = await response.text();
    const type = response.headers.get('Content-Type') ?? '';
    const read = type.includes('json') && text ? (JSON.parse(text) as Record<string, unknown>) : { text };
    return { status: response.status, body: read, headers: response.headers };
  }

  /** Waits for something that the server tells of when it happens. */
  async until<T>(look: () => Promise<T | false | null | undefined>): Promise<T> {
    const events = this.app.get(Events);
    let wake: () => void = () => undefined;
    let told = Promise.resolve();
    const renew = () => (told = new Promise((resolve) => (wake = resolve)));
    const subscription = events.stream().subscribe(() => wake());
    try {
      for (;;) {
        renew();
        const found = await look();
        if (found) return found;
        await told;
      }
    } finally {
      subscription.unsubscribe();
    }
  }

  /** Lets what was put off be claimed now. */
  async lookAgain(): Promise<void> {
    await this.app.get(JobStore).recover();
    await this.database.write((db) => db.run(sql`UPDATE jobs SET not_before = 0`));
    this.app.get(JobRunner).look();
  }

  /** A clip of the list as it is told to pages. */
  async clip(name: string): Promise<ClipSummary | undefined> {
    const { body } = await this.call('GET', '/clips');
    return (body as unknown as ClipSummary[]).find((c) => c.name === name);
  }

  /** Sends a file as a page does. @returns the last answer */
  async upload(name: string, bytes: Uint8Array): Promise<{ status: number; body: Record<string, unknown> }> {
    const tus = { 'Tus-Resumable': '1.0.0' };
    const metadata = `filename ${Buffer.from(name).toString('base64')}`;
    const created = await fetch(`${this.url}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'Upload-Length': String(bytes.length), 'Upload-Metadata': metadata },
    });
    if (created.status !== 201) return { status: created.status, body: (await created.json()) as never };
    const sent = await fetch(new URL(created.headers.get('Location')!, this.url), {
      ...{ method: 'PATCH', body: new Uint8Array(bytes) },
      headers: { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
    });
    const text = await sent.text();
    return { status: sent.status, body: text ? (JSON.parse(text) as Record<string, unknown>) : {} };
  }

  /** Puts a clip into the database as if it had been read. */
  async addClip(
    id: string,
    info: Partial<ClipInfo> = {},
    more: Partial<typeof clips.$inferInsert> = {},
  ): Promise<void> {
    const whole = { ...INFO, ...info };
    const times = Float64Array.from({ length: whole.frames }, (_, i) => i / whole.fps);
    await this.database.write((db) =>
      db.insert(clips).values({
        ...{ id, name: id, file: 'original.mp4', bytes: 10, hash: id, status: 'ready', info: whole },
        ...{ times: Buffer.from(times.buffer), createdAt: new Date().toISOString(), shakiness: 1 },
        ...more,
      }),
    );
  }
}

export const INFO = {
  ...{
    width: 640,
    height: 360,
    frames: 3000,
    fps: 25,
    rate: '25/1',
    pixelAspect: 1,
    turns: 0,
    duration: 120,
  },
  ...{ stream: 0, codec: 'h264', container: 'mov', pixelFormat: 'yuv420p', bitDepth: 8, audio: null },
  colour: { range: 'tv', space: 'bt709', transfer: 'bt709', primaries: 'bt709', siting: 'left' },
  ...{ startTime: 0, fileStart: 0, warning: null },
} as unknown as ClipInfo;
