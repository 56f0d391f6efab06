import { paintStrokes, type Raster } from '@lurn/core/compose';
import type { RasterSource } from '@lurn/model';
import { api } from '../lib/api';
import { Films } from './films';

/** What layers show, as far as it has been made: painted here, asked of the server once, kept as long as it is wanted. */
export class Rasters {
  private readonly made = new Map<string, Raster | null>();
  private wanted = new Set<string>();
  private readonly films: Films;

  /**
   * @param onMade    is told when one more can be drawn
   * @param onFailed  is told of one that cannot be had, and why
   */
  constructor(
    private readonly onMade: () => void,
    private readonly onFailed: (source: RasterSource, message: string) => void,
    private readonly ask: (source: RasterSource) => Promise<Raster> = askServer,
  ) {
    this.films = new Films(onMade, onFailed);
  }

  get = (key: string): Raster | null => this.made.get(key) ?? this.films.get(key);

  /** Takes over what the shot's layers show now; what none of them does any more is forgotten. */
  want(sources: readonly RasterSource[]): void {
    this.wanted = new Set(sources.map((s) => s.key));
    for (const key of this.made.keys()) if (!this.wanted.has(key)) this.made.delete(key);
    for (const source of sources) if (source.kind !== 'film' && !this.made.has(source.key)) this.make(source);
    this.films.want(sources);
  }

  private make(source: RasterSource): void {
    if (source.kind === 'strokes') {
      this.made.set(source.key, paintStrokes(source.strokes, source.box, source.scale));
      return;
    }
    // Nothing is drawn of it until it is there.
    this.made.set(source.key, null);
    this.ask(source).then(
      (raster) => {
        if (!this.wanted.has(source.key)) return;
        this.made.set(source.key, raster);
        this.onMade();
      },
      (error: Error) => {
        // Asked for again when it is wanted anew.
        this.made.delete(source.key);
        this.onFailed(source, error.message);
      },
    );
  }
}

/** A graphic or a text as the server draws it: the same samples that are rendered. */
export function askServer(source: RasterSource): Promise<Raster> {
  const { kind, ...ask } = source;
  return api.raster(kind === 'text' ? 'text' : 'raster', ask);
}
