import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createClient, type Client, type Transaction } from '@libsql/client';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { fullDisk, isFullDisk } from '../common/full-disk.js';
import { Settings } from '../common/settings.js';
import * as schema from './schema.js';

/** Where drizzle-kit writes migrations: two folders up from here, and from what is bundled. */
const MIGRATIONS = fileURLToPath(new URL('../../drizzle', import.meta.url));
/** What a file says that these migrations have brought up to date. */
const VERSION = 4;
/** How long a statement waits for another connection, on every connection, in milliseconds. */
const BUSY_MS = 5000;

type Orm = LibSQLDatabase<typeof schema>;
/** An open transaction. */
export type Writing = Parameters<Parameters<Orm['transaction']>[0]>[0];

/** The SQLite file `lurn.db`, through Drizzle; foreign keys hold. One process at a time has it. */
@Injectable()
export class Database implements OnApplicationShutdown {
  private lastWrite: Promise<unknown> = Promise.resolve();

  private constructor(
    private readonly client: Client,
    private readonly orm: Orm,
    private readonly lock: Lock,
  ) {}

  /** @throws LurnError `data-in-use`, `newer-data` */
  static async open(settings: Settings): Promise<Database> {
    const lock = await lockData(settings);
    const file = join(settings.data, 'lurn.db');
    const client = createClient({ url: `file:${file}`, timeout: BUSY_MS });
    try {
      const { rows } = await client.execute('PRAGMA user_version');
      if (Number(rows[0].user_version) > VERSION) {
        throw new LurnError(
          'newer-data',
          `${file} was written by a newer version of Lurn. Use that one, or another LURN_DATA.`,
        );
      }
      await client.execute('PRAGMA journal_mode = WAL');
      const orm = drizzle(client, { schema });
      await migrate(orm, { migrationsFolder: MIGRATIONS });
      return new Database(client, orm, lock);
    } catch (error) {
      client.close();
      unlock(lock);
      throw error;
    }
  }

  /** For reading, at any time. */
  get read(): Pick<Orm, 'query' | 'select' | 'all'> {
    return this.orm;
  }

  /**
   * Writes when everything that was to be written before has been. SQLite waits for another writer without letting
   * anything else in the process run - the other writer neither, were it in this process.
   */
  write<T>(work: (orm: Orm) => PromiseLike<T>): Promise<T> {
    const turn = this.lastWrite.then(() => work(this.orm));
    this.lastWrite = turn.catch(() => undefined);
    return turn;
  }

  onApplicationShutdown(): void {
    this.client.close();
    unlock(this.lock);
  }
}

interface Lock {
  readonly client: Client;
  readonly held: Transaction;
}

function unlock({ client, held }: Lock): void {
  held.close();
  client.close();
}

/**
 * Takes the data folder for this process: a write transaction on a file beside the data, which the system ends with the
 * process, whatever ends that.
 */
async function lockData(settings: Settings): Promise<Lock> {
  const client = createClient({ url: `file:${join(settings.data, 'lock.db')}`, timeout: 0 });
  try {
    return { client, held: await client.transaction('write') };
  } catch (error) {
    client.close();
    if (isFullDisk(error)) throw fullDisk();
    throw new LurnError(
      'data-in-use',
      `Another Lurn works on ${settings.data} already. Stop that one, or give this one a LURN_DATA of its own.`,
    );
  }
}
