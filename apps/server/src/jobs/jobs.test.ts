import { sql } from 'drizzle-orm';
import { Database } from '../database/database.js';
import { Settings } from '../common/settings.js';
import { tempData } from '../testing/test-app.js';
import type { Job } from './job-store.js';
import { JobRunner, type JobHandler } from './runner.js';
import { SqliteJobs } from './sqlite-jobs.js';

let database: Database;
let store: SqliteJobs;
let folder: Awaited<ReturnType<typeof tempData>>;
beforeEach(async () => {
  folder = await tempData();
  database = await Database.open(new Settings(folder.data));
  store = new SqliteJobs(database);
});
afterEach(async () => {
  database.onApplicationShutdown();
  await folder.remove();
});

describe('jobs in the database', () => {
  it('are claimed once each, the oldest first, and not added twice', async () => {
    for (const subject of ['a', 'b', 'a']) await store.add('read', subject);
    await store.add('render', 'a');
    const claims = await Promise.all(['x', 'y', 'z'].map((worker) => store.claim('read', worker, 1000)));
    expect(claims.map((c) => c?.subject ?? null).sort()).toEqual(['a', 'b', null]);
    expect((await store.claim('render', 'x', 1000))!.subject).toBe('a');
  });

  it('are anybody’s again when their lease runs out, and the first worker is told', async () => {
    await store.add('render', 'a');
    const first = (await store.claim('render', 'gone', -1))!;
    const second = (await store.claim('render', 'here', 1000))!;
    expect(second).toMatchObject({ subject: 'a', attempt: 2 });
    expect(await store.beat(first, 'gone', 1000, 5)).toBe(false);
    expect(await store.beat(second, 'here', 1000, 5)).toBe(true);
  });

  it('wait again after a restart, and for as long as they were put off', async () => {
    await store.add('read', 'a');
    const job = (await store.claim('read', 'x', 60_000))!;
    expect(await store.claim('read', 'y', 1000)).toBeNull();
    await store.recover();
    expect((await store.claim('read', 'y', 1000))!.id).toBe(job.id);
    await store.release(job, 60_000);
    expect(await store.claim('read', 'y', 1000)).toBeNull();
    expect(await store.cancel('a')).toBe(true);
    expect(await store.cancel('a')).toBe(false);
  });
});

describe('writing', () => {
  it('waits its turn while a long transaction is open, and holds nobody up', async () => {
    let close = (): void => undefined;
    const open = new Promise<void>((resolve) => (close = resolve));
    const order: string[] = [];
    const long = database.write((db) =>
      db.transaction(async (tx) => {
        await tx.run(
          sql`INSERT INTO jobs (id, kind, subject, state, created_at) VALUES ('j', 'read', 'a', 'waiting', 0)`,
        );
        await open;
        order.push('saved');
      }),
    );
    const claim = store.claim('read', 'x', 1000).then((job) => order.push(`claimed ${job?.subject}`));
    const read = database.read
      .all(sql`SELECT id FROM jobs`)
      .then((rows) => order.push(`read ${rows.length}`));
    await read;
    close();
    await Promise.all([long, claim]);
    expect(order).toEqual(['read 0', 'saved', 'claimed a']);
    await expect(database.write(() => Promise.reject(new Error('no')))).rejects.toThrow('no');
    expect(await database.write(() => Promise.resolve(1))).toBe(1);
  });
});

/** Work that ends when it is told to. */
class Work implements JobHandler {
  readonly begun: string[] = [];
  readonly put: unknown[] = [];
  readonly ends = new Map<string, (error?: Error) => void>();
  private heard: () => void = () => undefined;

  run(job: Job, signal: AbortSignal): Promise<void> {
    this.begun.push(job.subject);
    this.heard();
    return new Promise((resolve, reject) => {
      this.ends.set(job.subject, (error) => (error ? reject(error) : resolve()));
      signal.addEventListener('abort', () => reject(new Error('stopped')), { once: true });
    });
  }
  waiting(_: Job, error: unknown): Promise<void> {
    this.put.push(error);
    this.heard();
    return Promise.resolve();
  }
  /** Resolves at the next word from the runner. */
  next(): Promise<void> {
    return new Promise((resolve) => (this.heard = resolve));
  }
}

/** A runner that has begun a render of `a`. */
async function rendering(): Promise<{ runner: JobRunner; work: Work }> {
  const runner = new JobRunner(store);
  const work = new Work();
  runner.handle('render', work);
  const heard = work.next();
  await runner.add('render', 'a');
  await heard;
  return { runner, work };
}

describe('the runner', () => {
  it('runs as many at a time as it is to, in order, also when all come at once', async () => {
    const runner = new JobRunner(store);
    const work = new Work();
    for (const subject of ['a', 'b', 'c']) await store.add('read', subject);
    let heard = work.next();
    runner.handle('read', work);
    runner.look();
    runner.look();
    await heard;
    expect(work.begun).toEqual(['a']);
    heard = work.next();
    work.ends.get('a')!();
    await heard;
    expect(work.begun).toEqual(['a', 'b']);
    await runner.beforeApplicationShutdown();
    // What was running waits again, and so does what waited.
    expect((await store.claim('read', 'x', 1000))!.subject).toBe('b');
    expect((await store.claim('read', 'x', 1000))!.subject).toBe('c');
  });

  it('takes up at once what a killed server was running', async () => {
    await store.add('render', 'a');
    await store.claim('render', 'killed', 60_000);
    const runner = new JobRunner(store);
    const work = new Work();
    await runner.onModuleInit();
    const heard = work.next();
    runner.handle('render', work);
    runner.look();
    await heard;
    expect(work.begun).toEqual(['a']);
    await runner.beforeApplicationShutdown();
  });

  it('stops what runs, and takes away what waits', async () => {
    const { runner } = await rendering();
    await runner.add('render', 'b');
    expect(await runner.stop('b')).toBe('waiting');
    expect(await runner.stop('a')).toBe('running');
    expect(await runner.stop('a')).toBe('nothing');
    await runner.beforeApplicationShutdown();
    expect(await store.claim('render', 'x', 1000)).toBeNull();
  });

  it('puts back what stopped at a full disk, and ends what failed otherwise', async () => {
    const { runner, work } = await rendering();
    const heard = work.next();
    work.ends.get('a')!(Object.assign(new Error('no room'), { code: 'ENOSPC' }));
    await heard;
    expect(work.put).toEqual([expect.objectContaining({ code: 'ENOSPC' })]);
    await runner.beforeApplicationShutdown();
    expect(await store.claim('render', 'x', 1000)).toBeNull(); // not yet
    await store.recover();
    expect(await store.cancel('a')).toBe(true); // but there
  });

  it('goes on insisting when an end cannot be recorded', async () => {
    jest.useFakeTimers({ doNotFake: ['nextTick', 'setImmediate', 'queueMicrotask'] });
    try {
      const ended = jest.spyOn(store, 'end');
      ended.mockRejectedValueOnce(
        Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' }),
      );
      const { runner, work } = await rendering();
      work.ends.get('a')!();
      for (let i = 0; i < 200 && ended.mock.calls.length < 2; i++) {
        await new Promise((resume) => setImmediate(resume));
        jest.advanceTimersByTime(1000);
      }
      expect(ended.mock.calls.length).toBeGreaterThanOrEqual(2);
      await runner.beforeApplicationShutdown();
      expect(await store.cancel('a')).toBe(false);
    } finally {
      jest.useRealTimers();
    }
  });
});
