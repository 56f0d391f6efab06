import { paintStrokes, unpackRaster, type Raster } from '@lurn/core';
import type { RasterSource } from '@lurn/model';

/** What layers show, as far as it has been made: painted here, asked of the server once, kept as long as it is wanted. */
export class Rasters {
  private readonly made = new Map<string, Raster | null>();
  private wanted = new Set<string>();

  /**
   * @param onMade    is told when one more can be drawn
   * @param onFailed  is told of one that cannot be had, and why
   */
  constructor(
    private readonly onMade: () => void,
    private readonly onFailed: (source: RasterSource, message: string) => void,
    private readonly ask: (source: RasterSource) => Promise<Raster> = askServer,
  ) {}

  get = (key: string): Raster | null => this.made.get(key) ?? null;

  /** Takes over what the shot's layers show now; what none of them does any more is forgotten. */
  want(sources: readonly RasterSource[]): void {
    this.wanted = new Set(sources.map((s) => s.key));
    for (const key of this.made.keys()) if (!this.wanted.has(key)) this.made.delete(key);
    for (const source of sources) if (!this.made.has(source.key)) this.make(source);
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
export async function askServer(source: RasterSource): Promise<Raster> {
  const { kind, ...ask } = source;
  const response = await fetch(`/api/assets/${kind === 'text' ? 'text' : 'raster'}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(ask),
  });
  if (!response.ok) {
    const told = (await response.json().catch(() => ({}))) as { message?: string };
    throw new Error(told.message ?? `The server answered ${response.status}.`);
  }
  return unpackRaster(new Uint8Array(await response.arrayBuffer()));
}
