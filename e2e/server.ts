import { spawn, type ChildProcess } from 'node:child_process';
import { constants } from 'node:fs';
import { cp, mkdtemp, readFile, rm } from 'node:fs/promises';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { ClipSummary, SavedShot } from '@lurn/model';

export const root = fileURLToPath(new URL('..', import.meta.url));

/** Where `setup.ts` leaves the demo shots as a server has read them, for every test server to begin with. */
export const DEMO_DATA = join(root, '.cache/demo-data');

/** A file that is there once they have been read: what of, or why they could not be. */
export const DEMO_MARK = `${DEMO_DATA}.mark`;

/** Waits until the demo shots have been read. */
async function demoRead(): Promise<void> {
  for (;;) {
    const mark = await readFile(DEMO_MARK, 'utf8').catch(() => '');
    if (mark.startsWith('failed')) throw new Error(`The demo shots could not be read. ${mark}`);
    if (mark) return;
    await new Promise((resume) => setTimeout(resume, 200));
  }
}

/** As the environment of a server that is to read the demo shots itself. */
export const READS_DEMO = { LURN_DEMO: join(root, 'demo/shots') };

/** A Lurn server in a process and a data folder of its own. */
export class TestServer {
  private child: ChildProcess | null = null;

  private constructor(
    readonly port: number,
    readonly data: string,
    private readonly more: NodeJS.ProcessEnv,
  ) {}

  /** @param demo  whether it begins with the demo shots, read already; otherwise it is empty */
  static async start({
    demo = false,
    data = null as string | null,
    port = 0,
    env = {} as NodeJS.ProcessEnv,
  } = {}): Promise<TestServer> {
    const folder = data ?? (await mkdtemp(join(tmpdir(), 'lurn-test-')));
    if (demo) await demoRead();
    if (demo) await cp(DEMO_DATA, folder, { recursive: true, mode: constants.COPYFILE_FICLONE });
    const server = new TestServer(port || (await freePort()), folder, env);
    await server.up();
    return server;
  }

  get url(): string {
    return `http://localhost:${this.port}`;
  }

  /** Of the process that runs. */
  get pid(): number {
    return this.child!.pid!;
  }

  /** Starts the process and waits until it says where it is. */
  async up(): Promise<void> {
    const env: NodeJS.ProcessEnv = {
      ...process.env,
      ...this.more,
      LURN_DATA: this.data,
      LURN_PORT: String(this.port),
    };
    const child = spawn(process.execPath, [join(root, 'apps/server/dist/bundled/main.js')], {
      cwd: root,
      env,
    });
    this.child = child;
    let said = '';
    await new Promise<void>((resolve, reject) => {
      const hear = (text: Buffer) => {
        said += text.toString();
        if (said.includes('Lurn is at')) resolve();
      };
      child.stdout.on('data', hear);
      child.stderr.on('data', hear);
      child.on('close', (status) => reject(new Error(`The server ended with ${status}: ${said}`)));
    });
  }

  /** Ends the process, as Ctrl-C does or, with SIGKILL, as a crash does. */
  async down(signal: NodeJS.Signals = 'SIGINT'): Promise<number | null> {
    const { child } = this;
    if (!child || child.exitCode !== null || child.signalCode !== null) return child?.exitCode ?? null;
    const ended = new Promise<number | null>((resolve) => child.on('close', resolve));
    child.kill(signal);
    return ended;
  }

  async stop(): Promise<void> {
    await this.down('SIGTERM');
    await rm(this.data, { recursive: true, force: true });
  }

  async clips(): Promise<ClipSummary[]> {
    return (await (await fetch(`${this.url}/api/clips`)).json()) as ClipSummary[];
  }

  /** Waits until every clip has been read. */
  async ready(): Promise<ClipSummary[]> {
    for (;;) {
      const clips = await this.clips();
      if (clips.length > 0 && clips.every((c) => c.status === 'ready' || c.status === 'failed')) return clips;
      await new Promise((resume) => setTimeout(resume, 200));
    }
  }

  async clip(name: string): Promise<ClipSummary> {
    const found = (await this.ready()).find((c) => c.name === name);
    if (!found) throw new Error(`There is no clip "${name}".`);
    return found;
  }

  /** The shot as it is saved. */
  async shot(name: string): Promise<SavedShot> {
    const { id } = await this.clip(name);
    return (await (await fetch(`${this.url}/api/clips/${id}/shot`)).json()) as SavedShot;
  }

  /** Saves a shot as it is to be found by the page, in place of whatever is there: a page that was left may still save. */
  async save(name: string, shot: Omit<SavedShot, 'revision'>): Promise<void> {
    const { id } = await this.clip(name);
    for (;;) {
      const { revision } = await this.shot(name);
      const answer = await fetch(`${this.url}/api/clips/${id}/shot`, {
        method: 'PUT',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ ...shot, revision }),
      });
      if (answer.ok) return;
      if (answer.status !== 409) throw new Error(await answer.text());
    }
  }

  /** Uploads a file as the page does, in one piece. @returns status and body of the answer */
  async upload(
    name: string,
    bytes: Uint8Array,
  ): Promise<{
    status: number;
    body: { id?: string; code?: string; message?: string; duplicate?: boolean };
  }> {
    const metadata = `filename ${Buffer.from(name).toString('base64')}`;
    const tus = { 'Tus-Resumable': '1.0.0' };
    const made = await fetch(`${this.url}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'Upload-Length': String(bytes.length), 'Upload-Metadata': metadata },
    });
    if (made.status !== 201) return { status: made.status, body: JSON.parse(await made.text()) };
    const sent = await fetch(new URL(made.headers.get('location')!, this.url), {
      method: 'PATCH',
      headers: { ...tus, 'Upload-Offset': '0', 'Content-Type': 'application/offset+octet-stream' },
      body: bytes as BodyInit,
    });
    const text = await sent.text();
    return { status: sent.status, body: text ? JSON.parse(text) : {} };
  }
}

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.on('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}
