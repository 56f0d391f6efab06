import type { Point } from '@lurn/core/geometry';

let place: Point | null = null;

/** Where the pointer is over a pane, in CSS pixels from its corner; null while it is elsewhere. */
export const pointerPlace = (): Point | null => place;

export function rememberPointer(at: Point | null): void {
  place = at;
}
