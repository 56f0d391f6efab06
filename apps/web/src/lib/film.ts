import type { ClipSummary } from '@lurn/model';
import { filmUrl, thumbnailUrl } from './api';

/** The film's picture that is nearest to a frame, as a background of a size on screen; the clip's thumbnail under it. */
export function filmBackground(
  { id, made }: Pick<ClipSummary, 'id' | 'made'>,
  frames: number,
  frame: number,
  width: number,
  height: number,
): string {
  const thumbnail = `url(${thumbnailUrl(id)}) 0 0 / ${width}px ${height}px no-repeat`;
  const film = made?.film;
  if (!film) return thumbnail;
  const cell = Math.min(Math.floor((frames - 1) / film.every), Math.round(frame / film.every));
  const row = filmUrl(id, Math.floor(cell / film.row));
  return `url(${row}) ${-(cell % film.row) * width}px 0 / ${film.row * width}px ${height}px no-repeat, ${thumbnail}`;
}
