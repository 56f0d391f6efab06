import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClient } from '@libsql/client';
import { fromJson, type MeasuredJson } from '@lurn/core/formats';
import { samplesOf } from '@lurn/core/track';
import { sql } from 'drizzle-orm';
import { Settings } from '../common/settings.js';
import { INFO, tempData, TestApp } from '../testing/test-app.js';
import { Database } from './database.js';

/** Files of earlier versions, brought up to date; and what a file of ours holds to. */

const fixture = (name: string) =>
  JSON.parse(
    readFileSync(join(__dirname, `../../../../packages/model/src/migrations/fixtures/${name}.json`), 'utf8'),
  ) as Record<string, unknown>;

/** The tables as the first released version made them. */
const FIRST_VERSION = [
  `CREATE TABLE clips (id TEXT PRIMARY KEY, name TEXT NOT NULL, file TEXT NOT NULL, bytes INTEGER NOT NULL,
    hash TEXT NOT NULL, status TEXT NOT NULL, info TEXT, times BLOB, shakiness REAL,
    uses_copy INTEGER NOT NULL DEFAULT 0, error TEXT, created_at TEXT NOT NULL, deleted_at TEXT)`,
  `CREATE INDEX clips_by_hash ON clips (hash)`,
  `CREATE TABLE shots (clip_id TEXT PRIMARY KEY, revision INTEGER NOT NULL, document TEXT NOT NULL,
    updated_at TEXT NOT NULL)`,
  `CREATE TABLE tracks (clip_id TEXT NOT NULL, spot_id TEXT NOT NULL, columns TEXT NOT NULL,
    PRIMARY KEY (clip_id, spot_id))`,
  `CREATE TABLE renders (id TEXT PRIMARY KEY, clip_id TEXT NOT NULL, status TEXT NOT NULL, order_json TEXT NOT NULL,
    done INTEGER NOT NULL DEFAULT 0, bytes INTEGER, note TEXT, error TEXT, created_at TEXT NOT NULL)`,
  `CREATE INDEX renders_by_clip ON renders (clip_id)`,
  `PRAGMA user_version = 1`,
];

let folder: Awaited<ReturnType<typeof tempData>>;
beforeEach(async () => (folder = await tempData()));
afterEach(() => folder.remove());

async function writeFirstVersion(): Promise<void> {
  const client = createClient({ url: `file:${new Settings(folder.data).data}/lurn.db` });
  const now = '2026-05-01T10:00:00.000Z';
  const times = Buffer.from(Float64Array.from({ length: 180 }, (_, i) => i / 25).buffer);
  const tracks = fixture('tracks-version-3');
  await client.batch(
    [
      ...FIRST_VERSION,
      {
        sql: `INSERT INTO clips VALUES ('c', 'valley', 'original.mp4', 10, 'h', 'ready', ?, ?, 3.5, 0, NULL, ?, NULL)`,
        args: [JSON.stringify({ ...INFO, frames: 180 }), times, now],
      },
      {
        sql: `INSERT INTO shots VALUES ('c', 7, ?, ?), ('gone', 1, '{}', ?)`,
        args: [JSON.stringify(fixture('version-3')), now, now],
      },
      ...Object.entries(tracks).map(([id, columns]) => ({
        sql: `INSERT INTO tracks VALUES ('c', ?, ?)`,
        args: [id, JSON.stringify(columns)],
      })),
      {
        sql: `INSERT INTO renders VALUES ('r', 'c', 'done', ?, 2, 99, NULL, NULL, ?)`,
        args: [
          JSON.stringify({ from: 0, to: 0, crf: 18, zoom: 1.1, pictures: [[1, 0, 0, 0, 1, 0, 0, 0, 1]] }),
          now,
        ],
      },
    ],
    'write',
  );
  client.close();
}

describe('a file of the first version', () => {
  it('has its clips, shots, what was measured and its renders still', async () => {
    await writeFirstVersion();
    const server = await TestApp.start(folder.data);
    try {
      const [clip] = (await server.call('GET', '/clips')).body as unknown as Record<string, unknown>[];
      expect(clip).toMatchObject({ id: 'c', name: 'valley', status: 'ready', shakiness: 3.5 });
      expect(clip.renders).toMatchObject([{ id: 'r', status: 'done', zoom: 1.1, bytes: 99 }]);
      expect(clip.work).toMatchObject({
        trackers: { spot: (fixture('version-3').spots as unknown[]).length },
      });
      const { body } = await server.call('GET', '/clips/c/shot');
      expect(body).toMatchObject({ revision: 7, document: { version: 10 } });
      const before = fixture('tracks-version-3') as Record<string, { x: (number | null)[]; start: number }>;
      const after = body.measured as Record<string, MeasuredJson>;
      expect(Object.keys(after).sort()).toEqual(Object.keys(before).sort());
      for (const [id, old] of Object.entries(before)) {
        const places = [...samplesOf(fromJson(after[id]) as never)].map((s) => [s.frame, s.x]);
        const were = old.x.map((x, i) => [old.start + i, x]).filter(([, x]) => x !== null);
        expect(places).toEqual(were);
      }
    } finally {
      await server.stop();
    }
  });

  it('is brought up to date once, and opens again', async () => {
    await writeFirstVersion();
    for (let i = 0; i < 2; i++) {
      const database = await Database.open(new Settings(folder.data));
      const [{ n }] = await database.read.all<{ n: number }>(sql`SELECT count(*) AS n FROM measured`);
      expect(n).toBe(Object.keys(fixture('tracks-version-3')).length);
      database.onApplicationShutdown();
    }
  });
});

describe('a file', () => {
  it('of a newer version is left alone, with a sentence', async () => {
    const client = createClient({ url: `file:${new Settings(folder.data).data}/lurn.db` });
    await client.execute('PRAGMA user_version = 99');
    client.close();
    const opening = Database.open(new Settings(folder.data));
    await expect(opening).rejects.toMatchObject({ code: 'newer-data', message: /newer version of Lurn/ });
    // ... and is not held on to.
    await expect(Database.open(new Settings(folder.data))).rejects.toMatchObject({ code: 'newer-data' });
  });

  it('lets nothing hang on a clip that is not there, and takes what hangs on one along', async () => {
    const database = await Database.open(new Settings(folder.data));
    const write = (statement: ReturnType<typeof sql>) => database.write((db) => db.run(statement));
    const orphan = sql`INSERT INTO measured VALUES ('nobody', 'a', 'spot', 0, '{}')`;
    await expect(write(orphan)).rejects.toThrow();
    // On every connection: a transaction has one of its own.
    await expect(database.write((db) => db.transaction((tx) => tx.run(orphan)))).rejects.toThrow();
    await write(sql`INSERT INTO clips (id, name, file, bytes, hash, status, uses_copy, created_at)
      VALUES ('c', 'c', 'f', 1, 'h', 'ready', 0, 'now')`);
    await write(sql`INSERT INTO measured VALUES ('c', 'a', 'spot', 0, '{}')`);
    await write(sql`DELETE FROM clips`);
    expect(await database.read.all(sql`SELECT * FROM measured`)).toEqual([]);
    database.onApplicationShutdown();
  });
});
