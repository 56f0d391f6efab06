import { filmOf, rastersOf, type Raster, type Scene } from '@lurn/core/compose';
import type { RasterSource } from '@lurn/model';
import { FilmRasters } from './film-rasters.js';
import { makeRasters, type AssetPath } from './rasters.js';

/** All that a document's layers show: what stands as it is, and films, of which each frame is read when it is drawn. */
export class LayerRasters {
  private constructor(
    private readonly still: ReadonlyMap<string, Raster>,
    private readonly films: ReadonlyMap<string, FilmRasters>,
  ) {}

  /** What has gone is left out. */
  static async open(sources: readonly RasterSource[], assets: AssetPath): Promise<LayerRasters> {
    const films = new Map<string, FilmRasters>();
    for (const source of sources) {
      if (source.kind !== 'film' || films.has(source.key)) continue;
      const path = await assets(source.hash);
      if (path !== null) films.set(source.key, new FilmRasters(path, source.hash.slice(0, 8), source));
    }
    return new LayerRasters(await makeRasters(sources, assets), films);
  }

  has(key: string): boolean {
    return this.still.has(key) || this.films.has(key);
  }

  /** What a scene's layers show, and are limited by. @throws LurnError `frame-unreadable` */
  async of(scene: Scene): Promise<ReadonlyMap<string, Raster>> {
    if (this.films.size === 0) return this.still;
    const out = new Map(this.still);
    for (const key of rastersOf(scene)) {
      const asked = filmOf(key);
      const film = asked && this.films.get(asked.film);
      if (film) out.set(key, await film.frame(asked.frame));
    }
    return out;
  }

  close(): void {
    for (const film of this.films.values()) film.close();
  }
}
