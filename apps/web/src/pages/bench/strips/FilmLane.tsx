import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useState } from 'react';
import type { Film } from '@lurn/model';
import { StripCanvas, type Pen } from '../../../components/StripCanvas';
import { filmUrl, waveformUrl } from '../../../lib/api';
import { highestOf } from '../../../lib/summary';
import { useBenchParts } from '../../../state/bench';
import { FILM, LABEL, RIGHT, WAVE, type useScrub, type X } from './axis';

/** Levels a second of a waveform, and the loudest. */
const LEVELS = 50;
const LOUDEST = 128;

/** The server's answer where something will be there soon. */
const NOT_YET = 425;

interface LaneProps {
  readonly x: X;
  readonly width: number;
  readonly scrub: ReturnType<typeof useScrub>;
}

/** Small pictures along time, and the loudness of the sound; what is not there yet is hatched. */
export function FilmLane({ x, width, scrub }: LaneProps) {
  const { clip, info, times } = useBenchParts('clip', 'info', 'times');
  const film = clip.made?.film ?? null;
  const reading = clip.status === 'reading' || clip.status === 'copying';
  const read = reading ? clip.progress : info.frames;
  const rows = useRows(clip.id, film, info.frames, read);
  const levels = useWaveform(clip.id, clip.made?.wave ?? false);
  const there = clip.there;
  const drawFilm = useCallback(
    (pen: Pen) => {
      if (film) drawPictures(pen, film, rows, x, info.frames);
      hatch(pen, x(there), x(info.frames));
    },
    [film, rows, x, info.frames, there],
  );
  const drawWave = useCallback(
    ({ context, width, height, colour }: Pen) => {
      if (!levels) return;
      const place = (px: number) => LEVELS * secondsAt(times, x.invert(px));
      const loudest = highestOf(levels, (place(width) - place(0)) / width);
      context.fillStyle = colour('var(--color-base-content)');
      context.globalAlpha = 0.55;
      for (let px = 0; px < width; px++) {
        const from = Math.floor(place(px));
        const loud = loudest(from, Math.max(from + 1, Math.floor(place(px + 1))));
        const half = ((height / 2 - 1) * (loud || 0)) / LOUDEST;
        context.fillRect(px, height / 2 - half, 1, Math.max(0.5, 2 * half));
      }
    },
    [levels, times, x],
  );
  if (!film && !levels) return null;
  const lane = (name: string, label: string, height: number, draw: (pen: Pen) => void) => (
    <div className="flex items-center" style={{ height }}>
      <span className="quiet shrink-0 truncate px-2 text-[11px]" style={{ width: LABEL }}>
        {name}
      </span>
      <div
        {...scrub}
        role="img"
        aria-label={label}
        className="relative cursor-pointer overflow-hidden"
        style={{ width: width + RIGHT, height }}
      >
        <StripCanvas width={width} height={height} draw={draw} />
      </div>
    </div>
  );
  const left = reading ? `, read as far as frame ${Math.min(read, there)}` : '';
  return (
    <>
      {film && lane('Film', `Pictures along time${left}`, FILM, drawFilm)}
      {levels && lane('Sound', 'Loudness along time', WAVE, drawWave)}
    </>
  );
}

/** Height of the lane for a clip. */
export function filmHeight(made: { readonly film: Film | null; readonly wave: boolean } | null): number {
  return (made?.film ? FILM : 0) + (made?.wave ? WAVE : 0);
}

/** A row of the film; null where there will be none. One that is not there yet is asked for until it is. */
async function fetched(url: string, signal: AbortSignal): Promise<ImageBitmap | null> {
  for (;;) {
    const response = await fetch(url, { signal });
    if (response.ok) return createImageBitmap(await response.blob()).catch(() => null);
    if (response.status !== NOT_YET) return null;
    const pause = 1000 * Number(response.headers.get('Retry-After') ?? 1);
    await new Promise((resume) => setTimeout(resume, pause));
  }
}

/** Rows of the film that are there, fetched as the clip is read. */
function useRows(
  id: string,
  film: Film | null,
  frames: number,
  read: number,
): readonly (ImageBitmap | null)[] {
  const [rows, setRows] = useState<readonly (ImageBitmap | null)[]>([]);
  const span = film ? film.every * film.row : Infinity;
  const there = read >= frames ? Math.ceil(frames / span) : Math.floor(read / span);
  useEffect(() => {
    const gone = new AbortController();
    const load = async () => {
      for (let row = rows.length; row < there; row++) {
        const image = await fetched(filmUrl(id, row), gone.signal);
        if (gone.signal.aborted) return;
        setRows((had) => (had.length === row ? [...had, image] : had));
      }
    };
    // A server that is away is told of elsewhere; the rows come when the clip is looked at again.
    load().catch(() => undefined);
    return () => gone.abort();
    // What is loaded already is no reason to begin again.
    // oxlint-disable-next-line react/exhaustive-deps
  }, [id, there]);
  return rows;
}

function useWaveform(id: string, made: boolean): Uint8Array | null {
  const { data } = useQuery({
    queryKey: ['waveform', id],
    enabled: made,
    staleTime: Infinity,
    queryFn: async () => {
      const response = await fetch(waveformUrl(id));
      return response.ok ? new Uint8Array(await response.arrayBuffer()) : null;
    },
  });
  return data ?? null;
}

/** Picture beside picture, each the one that was taken nearest to its middle. */
function drawPictures(
  { context, width, height }: Pen,
  film: Film,
  rows: readonly (ImageBitmap | null)[],
  x: X,
  frames: number,
): void {
  const wide = (height * film.width) / film.height;
  // Cells stay where they are in time while it is scrolled.
  const origin = x(0);
  for (let cell = Math.floor(-origin / wide); origin + cell * wide < width; cell++) {
    const left = origin + cell * wide;
    // The last cell is seen as far as the clip goes.
    const seen = Math.min(wide - 1, x(frames) - left);
    if (cell < 0 || seen <= 0) continue;
    const frame = Math.min(frames - 1, x.invert(left + wide / 2));
    const picture = Math.min(Math.floor((frames - 1) / film.every), Math.round(frame / film.every));
    const image = rows[Math.floor(picture / film.row)];
    if (!image) continue;
    const from = (picture % film.row) * film.width;
    const part = (film.width * seen) / (wide - 1);
    context.drawImage(image, from, 0, part, film.height, left, 0, seen, height);
  }
}

/** Strokes over what is not there yet. */
function hatch({ context, width, height, colour }: Pen, from: number, to: number): void {
  const [left, right] = [Math.max(0, from), Math.min(width, to)];
  if (right - left < 1) return;
  context.save();
  context.beginPath();
  context.rect(left, 0, right - left, height);
  context.clip();
  context.fillStyle = colour('var(--color-base-100)');
  context.globalAlpha = 0.7;
  context.fillRect(left, 0, right - left, height);
  context.globalAlpha = 0.5;
  context.strokeStyle = colour('var(--color-base-content)');
  context.beginPath();
  for (let px = left - height; px < right; px += 6) {
    context.moveTo(px, height);
    context.lineTo(px + height, 0);
  }
  context.stroke();
  context.restore();
}

/** The time of a frame, also between two. */
function secondsAt(times: Float64Array, frame: number): number {
  const i = Math.min(times.length - 1, Math.max(0, Math.floor(frame)));
  const next = Math.min(times.length - 1, i + 1);
  return times[i] + (frame - i) * (times[next] - times[i]);
}
