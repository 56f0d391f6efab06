import { innerOf } from '@lurn/core/compose';
import { faultOfQuad, type Point, type Quad } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import {
  cornersAbout,
  layerById,
  NEW_EDGE,
  NEW_TEXT_STYLE,
  quadOf,
  same,
  storedQuad,
  type Corners4,
  type TextLayer,
} from '@lurn/model';
import { askServer } from '../workers/rasters';
import { shotState } from './shot';
import { change } from './layers';
import { placed, put, room } from './making-layers';

/** Texts as layers: the server draws them, and so says how large they are. */

/** A new text, as large as the server draws it is long. */
export async function putText(text = 'Text'): Promise<void> {
  const layer = { ...placed('Text'), kind: 'text', text, style: NEW_TEXT_STYLE, edge: NEW_EDGE } as const;
  const { width, height } = await textSize({ text, style: NEW_TEXT_STYLE });
  const space = room(layer.rides);
  const tall = space.height / 2.5;
  put({ ...layer, corners: cornersAbout(space.x, space.y, (tall * width) / height, tall) });
}

async function textSize({ text, style }: Pick<TextLayer, 'text' | 'style'>) {
  const key = `text ${JSON.stringify([text, style])}`;
  return innerOf(await askServer({ kind: 'text', key, text, style, edge: NEW_EDGE, side: 0 }));
}

/** Changes of texts under way: each begins where the one before has ended. */
let changing: Promise<void> = Promise.resolve();

/** Changes a text or how it looks: its letters stay as large as they were, about the side that it is aligned to. */
export function changeText(id: string, part: Partial<Pick<TextLayer, 'text' | 'style'>>): Promise<void> {
  changing = changing.then(() => changeTextNow(id, part));
  return changing;
}

async function changeTextNow(id: string, part: Partial<Pick<TextLayer, 'text' | 'style'>>): Promise<void> {
  const before = layerById(shotState(), id);
  if (before?.kind !== 'text' || same({ ...before, ...part }, before)) return;
  // Its size is asked for first, so that all of it is one step of undo; without an answer it stays as large as it was.
  const sizes = await Promise.all([textSize(before), textSize({ ...before, ...part })]).catch(() => null);
  const layer = layerById(shotState(), id);
  if (layer?.kind !== 'text') return;
  const corners = sizes ? resized(layer, sizes[0], sizes[1]) : null;
  change(id, { ...part, ...(corners && { corners }) });
}

/** Corners of a text whose box has become another; null where it had none, or has none. */
function resized({ corners, style }: TextLayer, old: Size, now: Size): Corners4 | null {
  if (old.width < 2 || now.width < 2) return null;
  const [wide, tall] = [now.width / old.width, now.height / old.height];
  const anchor = style.align === 'left' ? 0 : style.align === 'right' ? 1 : 0.5;
  const [a, b, c, d] = quadOf(corners);
  const between = (p: Point, q: Point, t: number) => ({ x: p.x + t * (q.x - p.x), y: p.y + t * (q.y - p.y) });
  const [from, to] = [anchor - anchor * wide, anchor + (1 - anchor) * wide];
  const [tl, tr] = [between(a, b, from), between(a, b, to)];
  const [bl, br] = [between(d, c, from), between(d, c, to)];
  const quad: Quad = [tl, tr, between(tr, br, tall), between(tl, bl, tall)];
  return faultOfQuad(quad) === null ? storedQuad(quad) : null;
}
