import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap } from '@nestjs/common';
import { isHash } from '@lurn/model';
import { sql } from 'drizzle-orm';
import { Settings } from '../common/settings.js';
import { Database } from '../database/database.js';
import { renders, shots } from '../database/schema.js';

/** Files that nothing shows are kept so long, for pages that may undo what took them away. */
const KEPT_MS = 7 * 24 * 3600 * 1000;

/** Removes the files of layers that no shot, and no render that is still to be made, has shown for long. */
@Injectable()
export class UnusedAssets implements OnApplicationBootstrap {
  private readonly log = new Logger('Assets');

  constructor(
    private readonly database: Database,
    private readonly settings: Settings,
  ) {}

  async onApplicationBootstrap(): Promise<void> {
    // It only makes room: whatever keeps it from that is no reason not to start.
    await this.sweep().catch((error: unknown) => this.log.warn(`Unused files stay: ${String(error)}`));
  }

  private async sweep(): Promise<void> {
    const folder = join(this.settings.data, 'assets');
    const names = (await readdir(folder).catch(() => [])).filter(isHash);
    if (names.length === 0) return;
    const rows = await this.database.read.all<{ hash: string }>(sql`
      SELECT DISTINCT json_extract(a.value, '$.hash') AS hash FROM (
        SELECT document FROM ${shots} UNION ALL
        SELECT json_extract(order_json, '$.document') FROM ${renders} WHERE status <> 'done'
      ) d, json_each(d.document, '$.assets') a`);
    const shown = new Set(rows.map((r) => r.hash));
    for (const name of names) {
      const file = join(folder, name);
      // When it was brought in, not when it was made.
      if (!shown.has(name) && (await stat(file)).ctimeMs < Date.now() - KEPT_MS) await rm(file);
    }
  }
}
