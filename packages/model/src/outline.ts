import type { AreaKey } from '@lurn/core/geometry';
import { LIMITS } from './limits.js';

/**
 * Edits of a keyed outline, whatever it belongs to - an area, a surface, a layer, a matte: its keys, in the order of their
 * frames, each with as many corners as every other.
 */
export type Keys = readonly AreaKey[];
type Shape = AreaKey['shape'];

/** With a shape on a frame, in place of what was keyed there. */
export function withKey(keys: Keys, frame: number, shape: Shape): Keys {
  return [...keys.filter((k) => k.frame !== frame), { frame, shape }].sort((a, b) => a.frame - b.frame);
}

/** Without the key of a frame; the last one stays. */
export function withoutKey(keys: Keys, frame: number): Keys {
  return keys.length < 2 ? keys : keys.filter((key) => key.frame !== frame);
}

/** With one more corner in the middle of the edge that begins at one, on every key. */
export function withCorner(keys: Keys, after: number): Keys {
  if (keys[0].shape.length >= LIMITS.corners) return keys;
  return onEvery(keys, (shape) => {
    const [a, b] = [shape[after], shape[(after + 1) % shape.length]];
    return [...shape.slice(0, after + 1), [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], ...shape.slice(after + 1)];
  });
}

/** Without a corner, on every key; three stay. */
export function withoutCorner(keys: Keys, corner: number): Keys {
  if (keys[0].shape.length <= 3) return keys;
  return onEvery(keys, (shape) => shape.filter((_, i) => i !== corner));
}

/** With every corner moved. */
export function movedKeys(keys: Keys, move: (place: Shape[number]) => Shape[number]): Keys {
  return onEvery(keys, (shape) => shape.map(move));
}

function onEvery(keys: Keys, change: (shape: Shape) => Shape): Keys {
  return keys.map((key) => ({ ...key, shape: change(key.shape) }));
}
