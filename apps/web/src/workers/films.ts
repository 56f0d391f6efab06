import { filmOf, type Raster } from '@lurn/core/compose';
import type { RasterSource } from '@lurn/model';
import { LRUCache } from 'lru-cache';
import { api } from '../lib/api';

type FilmSource = RasterSource & { readonly kind: 'film' };

const KEPT_BYTES = 150e6;
/** Frames that are asked for ahead of the one that is shown. */
const AHEAD = 4;

/**
 * Frames of films that layers show, asked of the server as they come up, a few ahead. Until one is there, the one that
 * was shown last stands in for it.
 */
export class Films {
  private readonly made = new LRUCache<string, Raster>({
    maxSize: KEPT_BYTES,
    sizeCalculation: ({ data }) => data.length + 1,
  });
  private sources = new Map<string, FilmSource>();
  private readonly last = new Map<string, Raster>();
  private readonly asked = new Set<string>();
  /** Asked for by what is drawn, and not there then: it is drawn again when they come. */
  private readonly waited = new Set<string>();

  /**
   * @param onMade    is told when one more can be drawn
   * @param onFailed  is told of a film that cannot be had, and why
   */
  constructor(
    private readonly onMade: () => void,
    private readonly onFailed: (source: RasterSource, message: string) => void,
    private readonly ask: (source: FilmSource, frame: number) => Promise<Raster> = askServer,
  ) {}

  want(sources: readonly RasterSource[]): void {
    this.sources = new Map(sources.flatMap((s) => (s.kind === 'film' ? [[s.key, s]] : [])));
    for (const film of this.last.keys()) if (!this.sources.has(film)) this.last.delete(film);
  }

  /** A film's frame by a raster's key; null for what is no film, or is not there yet. */
  get(key: string): Raster | null {
    const of = filmOf(key);
    const source = of && this.sources.get(of.film);
    if (!source) return null;
    const hit = this.made.get(key);
    if (hit) this.last.set(of.film, hit);
    else this.waited.add(key);
    for (let ahead = 0; ahead <= AHEAD; ahead++) this.fetch(source, of.frame + ahead);
    return hit ?? this.last.get(of.film) ?? null;
  }

  private fetch(source: FilmSource, frame: number): void {
    const key = `${source.key}#${frame}`;
    if (frame >= source.frames || this.made.has(key) || this.asked.has(key)) return;
    this.asked.add(key);
    this.ask(source, frame)
      .then(
        (raster) => {
          this.made.set(key, raster);
          if (this.waited.delete(key)) this.onMade();
        },
        (error: Error) => {
          if (this.waited.delete(key)) this.onFailed(source, error.message);
        },
      )
      .finally(() => this.asked.delete(key));
  }
}

function askServer({ hash, width, height }: FilmSource, frame: number): Promise<Raster> {
  return api.raster('film', { hash, width, height, frame });
}
