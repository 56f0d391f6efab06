import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { mkdir, mkdtemp, readFile, rm } from 'node:fs/promises';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { ffmpegPath } from '@lurn/engine';
import type { QueueSummary, RenderSummary } from '@lurn/model';
import { TestServer } from '../e2e/server.js';
import { STATION } from './accuracy.js';

/** Renders in parts: killed again and again, and made by several workers; what comes of it has the same bits. */

type Show = (name: string, value: string, wanted: string) => void;
const run = promisify(execFile);
const wait = (ms: number) => new Promise((r) => setTimeout(r, ms));
const hashOf = async (file: string) =>
  createHash('sha256')
    .update(await readFile(file))
    .digest('hex');

export async function parts(show: Show, only?: string): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-parts-'));
  try {
    const shots = join(folder, 'shots');
    await mkdir(shots);
    const clip = join(shots, 'long.mp4');
    await run(await ffmpegPath(), ['-v', 'error', '-stream_loop', '5', '-i', STATION, '-c', 'copy', clip]);
    if (!only || only === 'killed') await killed(show, folder, clip);
    if (!only || only === 'machines') await machines(show, folder, shots);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const KILLS = 20;
const FRAMES = 1080;

/** Ended without warning at random moments, and begun again. */
async function killed(show: Show, folder: string, clip: string): Promise<void> {
  const child = ['--import', 'tsx', 'bench/render-child.ts', clip];
  const told = [String(FRAMES), 'medium', '18', ''];
  const [whole, out, work, log] = ['whole.mp4', 'out.mp4', 'work', 'log'].map((n) => join(folder, n));
  const start = performance.now();
  await run(process.execPath, [...child, whole, ...told]);
  const seconds = (performance.now() - start) / 1000;
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  let kills = 0;
  while (kills < KILLS) {
    const going = spawn(process.execPath, [...child, out, ...told, work, log], { detached: true });
    const ended = new Promise<number | null>((resolve) => going.on('close', resolve));
    // From the first moment on, and up to a sixth of the whole: some end before anything was drawn.
    const timer = setTimeout(
      () => process.kill(going.pid!, 'SIGKILL'),
      300 + random() * (seconds / 6) * 1000,
    );
    const status = await ended;
    clearTimeout(timer);
    if (status === 0) break;
    kills++;
  }
  await run(process.execPath, [...child, out, ...told, work, log]).catch(() => undefined);
  const counted = (what: string) => {
    const counts = new Map<string, number>();
    for (const line of readFileSync(log, 'utf8').split('\n'))
      if (line.endsWith(what)) counts.set(line, (counts.get(line) ?? 0) + 1);
    return Math.max(...counts.values());
  };
  const same = (await hashOf(whole)) === (await hashOf(out));
  show(
    `a render of ${seconds.toFixed(0)} s killed ${kills} times, then finished: the same bits`,
    String(same),
    'true',
  );
  show('a part that was finished, rendered again', `${counted('done') - 1} times`, '0 times');
  show('a part begun most often', `${counted('begun')} times`, '<= 2 times');
}

/** Seconds of processor time of a process and of what it has started and waited for. */
function processor(pid: number): number {
  const [, rest] = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ');
  return (
    rest
      .split(' ')
      .slice(11, 15)
      .reduce((sum, ticks) => sum + Number(ticks), 0) / 100
  );
}

async function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });
}

class House {
  readonly workers: ChildProcess[] = [];

  private constructor(
    readonly server: TestServer,
    private readonly env: NodeJS.ProcessEnv,
    private readonly folder: string,
  ) {}

  static async open(shots: string, folder: string, env: NodeJS.ProcessEnv): Promise<House> {
    const house = new House(await TestServer.start({ env: { ...env, LURN_DEMO: shots } }), env, folder);
    await house.server.ready();
    while (!(await house.server.clips()).every((c) => c.made?.scene)) await wait(500);
    return house;
  }

  worker(name: string): ChildProcess {
    const env = {
      ...process.env,
      ...this.env,
      LURN_NAME: name,
      LURN_LEASE: '4',
      LURN_DATA: join(this.folder, name),
    };
    const child = spawn(process.execPath, ['apps/server/dist/bundled/worker-main.js'], {
      env,
      stdio: 'ignore',
    });
    this.workers.push(child);
    return child;
  }

  async queue(): Promise<QueueSummary> {
    return (await (await fetch(`${this.server.url}/api/queue`)).json()) as QueueSummary;
  }

  async knows(workers: number): Promise<void> {
    while ((await this.queue()).workers.filter((w) => !w.gone).length < workers) await wait(200);
  }

  /** Renders the one clip; what happens meanwhile is told every fifth of a second. */
  async render(meanwhile?: (done: number) => void): Promise<{ file: string; seconds: number }> {
    const [clip] = await this.server.clips();
    const { revision } = (await (await fetch(`${this.server.url}/api/clips/${clip.id}/shot`)).json()) as {
      revision: number;
    };
    const start = performance.now();
    const ordered = await fetch(`${this.server.url}/api/clips/${clip.id}/renders`, {
      ...{ method: 'POST', body: JSON.stringify({ revision, crf: 18 }) },
      headers: { 'content-type': 'application/json' },
    });
    if (!ordered.ok) throw new Error(await ordered.text());
    const { id } = (await ordered.json()) as RenderSummary;
    for (;;) {
      const render = (await this.queue()).renders.find((r) => r.id === id)!;
      if (render.status === 'done') break;
      if (render.status === 'failed') throw new Error(JSON.stringify(render.error));
      meanwhile?.(render.done);
      await wait(200);
    }
    return {
      file: join(this.server.data, 'renders', `${id}.mp4`),
      seconds: (performance.now() - start) / 1000,
    };
  }

  async close(): Promise<void> {
    for (const worker of this.workers) worker.kill('SIGKILL');
    await this.server.stop();
  }
}

async function machines(show: Show, folder: string, shots: string): Promise<void> {
  const port = await freePort();
  const redis = spawn('redis-server', ['--port', String(port), '--save', ''], { stdio: 'ignore' });
  const there = await new Promise<boolean>((resolve) => {
    redis.on('error', () => resolve(false));
    setTimeout(() => resolve(true), 700);
  });
  if (!there) return show('several machines', 'no redis-server', 'install it');
  const env = {
    ...{
      LURN_QUEUE: `redis://127.0.0.1:${port}`,
      LURN_TOKEN: 'bench',
      LURN_WORK: `127.0.0.1:${await freePort()}`,
    },
  };
  const shared = await House.open(shots, folder, { ...env, LURN_SERVER: `http://${env.LURN_WORK}` });
  const alone = await House.open(shots, folder, {});
  try {
    const before = processor(alone.server.pid);
    const one = await alone.render();
    const single = processor(alone.server.pid) - before;
    for (const name of ['a', 'b', 'c']) shared.worker(name);
    await shared.knows(3);
    const pids = [shared.server.pid, ...shared.workers.map((w) => w.pid!)];
    const start = pids.map(processor);
    const three = await shared.render();
    const used = pids.reduce((sum, pid, i) => sum + processor(pid) - start[i], 0);
    const same = async (file: string) => String((await hashOf(file)) === (await hashOf(one.file)));
    show('three workers: the same bits as on one machine', await same(three.file), 'true');
    show('their processor time / that of one process', (used / single).toFixed(2), '<= 1.10');
    show(
      'their time / that of one process, on the same processors',
      (three.seconds / one.seconds).toFixed(2),
      '-',
    );
    // One is killed, one is cut off for good while it works, one is slow: halted half of the time.
    const [killed, cutOff, slow] = shared.workers;
    let step = 0;
    const harmed = await shared.render((done) => {
      if (step === 0 && done > 60) {
        killed.kill('SIGKILL');
        step = 1;
      } else if (step === 1 && done > 200) {
        cutOff.kill('SIGSTOP');
        step = 2;
      } else if (step >= 2) slow.kill(step++ % 4 < 2 ? 'SIGSTOP' : 'SIGCONT');
    });
    show('one killed, one cut off, one slow: the same bits', await same(harmed.file), 'true');
    slow.kill('SIGCONT');
    cutOff.kill('SIGCONT');
    // Redis goes for a while in the middle of it.
    let gone: ChildProcess | null = redis;
    const through = shared.render((done) => {
      if (!gone || done < 60) return;
      gone.kill('SIGKILL');
      gone = null;
      setTimeout(
        () => back.push(spawn('redis-server', ['--port', String(port), '--save', ''], { stdio: 'ignore' })),
        10_000,
      );
    });
    show(
      'Redis gone for 10 s, and all that it knew: the same bits',
      await same((await through).file),
      'true',
    );
  } finally {
    await shared.close();
    await alone.close();
    for (const one of [redis, ...back]) one.kill('SIGKILL');
  }
}

const back: ChildProcess[] = [];
