import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Injectable } from '@nestjs/common';
import { LurnError, type Raster } from '@lurn/core';
import { makeRaster, makeRasters, readPictureFacts } from '@lurn/engine';
import type { Asset, RasterSource } from '@lurn/model';
import { LRUCache } from 'lru-cache';
import { Settings } from '../common/settings.js';

/** A file that was taken over. */
export interface TakenAsset {
  readonly asset: Asset;
  /** What the person should know of it, in sentences. */
  readonly notes: readonly string[];
}

/** How much of what was made is kept, in bytes. */
const KEPT_BYTES = 300e6;

/** The files that layers show, by their hashes, and the rasters that are made from them. */
@Injectable()
export class Assets {
  private readonly made = new LRUCache<string, Raster>({
    maxSize: KEPT_BYTES,
    sizeCalculation: ({ data }) => data.length + 1,
  });

  constructor(private readonly settings: Settings) {}

  /**
   * Takes over a file that lies on the disk.
   *
   * @throws LurnError `bad-picture`, `too-large`; the file is removed then
   */
  async take(path: string, name: string): Promise<TakenAsset> {
    try {
      const { notes, ...facts } = await readPictureFacts(path, name);
      const hash = await hashOf(path);
      await mkdir(this.folder, { recursive: true });
      await rename(path, join(this.folder, hash));
      return { asset: { hash, name: name.slice(0, 255), ...facts }, notes };
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
  }

  /** Where a file is; null where it has gone. */
  async path(hash: string): Promise<string | null> {
    if (!/^[0-9a-f]{64}$/.test(hash)) return null;
    const path = join(this.folder, hash);
    return access(path).then(
      () => path,
      () => null,
    );
  }

  /** One raster, for the page. @throws LurnError `missing-file`, `bad-picture` */
  async raster(source: RasterSource): Promise<Raster> {
    let raster = this.made.get(source.key);
    if (raster) return raster;
    const made = await makeRaster(source, (hash) => this.path(hash));
    if (!made) throw missing(source.kind === 'asset' ? source.hash : source.key);
    this.made.set(source.key, (raster = made));
    return raster;
  }

  /**
   * All that a render's layers show, in shared memory.
   *
   * @param assets  the shot's, for their names
   * @throws LurnError `missing-file` that names what has gone
   */
  async rasters(sources: readonly RasterSource[], assets: readonly Asset[]): Promise<Map<string, Raster>> {
    const out = await makeRasters(sources, (hash) => this.path(hash));
    for (const source of sources)
      if (source.kind === 'asset' && !out.has(source.key))
        throw missing(assets.find((a) => a.hash === source.hash)?.name ?? source.hash);
    return out;
  }

  private get folder(): string {
    return join(this.settings.data, 'assets');
  }
}

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

function missing(name: string): LurnError {
  return new LurnError(
    'missing-file',
    `The file of the graphic "${name}" has gone from the server. Bring it in again.`,
  );
}
