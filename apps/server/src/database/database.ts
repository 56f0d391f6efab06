import { join } from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { Settings } from '../common/settings.js';
import * as schema from './schema.js';

/** Statements that bring an older file up to date, one list a version; never changed once released. */
const VERSIONS: readonly (readonly string[])[] = [
  [
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
  ],
];

/** The SQLite file `lurn.db`, through Drizzle. */
@Injectable()
export class Database implements OnApplicationShutdown {
  private constructor(
    private readonly client: Client,
    readonly orm: LibSQLDatabase<typeof schema>,
  ) {}

  static async open(settings: Settings): Promise<Database> {
    const file = join(settings.data, 'lurn.db');
    const client = createClient({ url: `file:${file}` });
    await client.execute('PRAGMA journal_mode = WAL');
    await client.execute('PRAGMA busy_timeout = 5000');
    const { rows } = await client.execute('PRAGMA user_version');
    const version = Number(rows[0].user_version);
    if (version > VERSIONS.length) {
      throw new LurnError(
        'newer-data',
        `${file} was written by a newer version of Lurn. Use that one, or another LURN_DATA.`,
      );
    }
    for (let v = version; v < VERSIONS.length; v++) {
      await client.batch([...VERSIONS[v], `PRAGMA user_version = ${v + 1}`], 'write');
    }
    return new Database(client, drizzle(client, { schema }));
  }

  onApplicationShutdown(): void {
    this.client.close();
  }
}
