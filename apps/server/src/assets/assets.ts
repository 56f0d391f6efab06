import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, copyFile, link, mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Injectable, type OnModuleDestroy } from '@nestjs/common';
import { LurnError } from '@lurn/core';
import type { Raster } from '@lurn/core/compose';
import { FilmRasters, LayerRasters, makeRaster, readFilmFacts, factsOfPicture } from '@lurn/engine';
import { isHash, type AskFilmRaster, type Asset, type RasterSource, type TakenAsset } from '@lurn/model';
import { LRUCache } from 'lru-cache';
import { Settings } from '../common/settings.js';

/** How much of what was made is kept, in bytes. */
const KEPT_BYTES = 300e6;

/** The files that layers show, by their hashes, and the rasters that are made from them. */
@Injectable()
export class Assets implements OnModuleDestroy {
  private readonly made = new LRUCache<string, Raster>({
    maxSize: KEPT_BYTES,
    sizeCalculation: ({ data }) => data.length + 1,
  });

  /** Films that the page looks at: those that it has left are closed. */
  private readonly films = new LRUCache<string, FilmRasters>({ max: 4, dispose: (film) => film.close() });

  constructor(private readonly settings: Settings) {}

  onModuleDestroy(): void {
    this.films.clear();
  }

  /**
   * Takes over a file that lies on the disk.
   *
   * @throws LurnError `bad-picture`, `too-large`; the file is removed then
   */
  async take(path: string, name: string): Promise<TakenAsset> {
    try {
      const { notes, ...facts } = await factsOf(path, name);
      const hash = await hashOf(path);
      await mkdir(this.folder, { recursive: true });
      await rename(path, join(this.folder, hash));
      // Where it is the very file that lies there already, renaming leaves both names.
      await rm(path, { force: true });
      return { asset: { hash, name: name.slice(0, 255), ...facts }, notes };
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
  }

  /** Where a file is; null where it has gone. */
  async path(hash: string): Promise<string | null> {
    if (!isHash(hash)) return null;
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
    if (!made) throw missing('hash' in source ? source.hash : source.key);
    this.made.set(source.key, (raster = made));
    return raster;
  }

  /**
   * All that a render's layers show; it has to be closed.
   *
   * @param assets  the shot's, for their names
   * @throws LurnError `missing-file` that names what has gone
   */
  async rasters(sources: readonly RasterSource[], assets: readonly Asset[]): Promise<LayerRasters> {
    const out = await LayerRasters.open(sources, (hash) => this.path(hash));
    for (const source of sources)
      if ('hash' in source && !out.has(source.key))
        throw missing(assets.find((a) => a.hash === source.hash)?.name ?? source.hash);
    return out;
  }

  /** A frame of a film, for the page. @throws LurnError `missing-file`, `frame-unreadable` */
  async filmFrame({ hash, width, height, frame }: AskFilmRaster): Promise<Raster> {
    const key = `${hash} ${width} ${height}`;
    const path = await this.path(hash);
    if (path === null) throw missing(hash);
    let film = this.films.get(key);
    if (!film) this.films.set(key, (film = new FilmRasters(path, hash.slice(0, 8), { width, height })));
    return film.frame(frame);
  }

  /** Takes over a copy of a file that stays where it is. */
  async copy(path: string, name: string): Promise<TakenAsset> {
    const own = await this.coming();
    // The same file under a second name where the disk can do that.
    await link(path, own).catch(() => copyFile(path, own));
    return this.take(own, name);
  }

  /** Where something may be put together that is then {@link take}n over. */
  async coming(): Promise<string> {
    await mkdir(this.folder, { recursive: true });
    return join(this.folder, `coming ${randomUUID()}`);
  }

  private get folder(): string {
    return join(this.settings.data, 'assets');
  }
}

/** A picture, or else a film. */
async function factsOf(path: string, name: string) {
  if (/\.(png|jpe?g|webp|svg|gif)$/i.test(name)) return pictureFacts(path, name);
  const film = await readFilmFacts(path, name).catch((error: unknown) => error as Error);
  // One picture is a graphic, whatever it is in.
  if (!(film instanceof Error) && film.frames > 1) return film;
  return pictureFacts(path, name).catch((error: unknown) => {
    throw film instanceof LurnError && /\.(mp4|mov|webm|mkv|avi|m4v|mxf|ts)$/i.test(name) ? film : error;
  });
}

async function pictureFacts(path: string, name: string) {
  return { ...(await factsOfPicture(path, name)), frames: 1, fps: 0 };
}

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

function missing(name: string): LurnError {
  return new LurnError(
    'missing-file',
    `The file "${name}" of a layer has gone from the server. Bring it in again.`,
  );
}
