import { chain, invert, scaling, translation, type Matrix3 } from '@lurn/core/geometry';
import type { Size } from '@lurn/core/plan';
import type { Camera, Layout } from '../state/bench';

/** Where panes lie in the twin view and how the picture lies in them; lengths in CSS pixels. */

export interface PaneRect {
  readonly kind: 'source' | 'steadied';
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** What is left of the pane where a wipe cuts it: from and to, as fractions of its width. */
  readonly from: number;
  readonly to: number;
}

const GAP = 4;

/** @param blinked  which picture is up while blinking */
export function layOut(
  layout: Layout,
  width: number,
  height: number,
  wipe: number,
  blinked = false,
): PaneRect[] {
  const whole = { x: 0, y: 0, width, height, from: 0, to: 1 };
  if (layout === 'source' || layout === 'steadied') return [{ kind: layout, ...whole }];
  if (layout === 'blink') return [{ kind: blinked ? 'steadied' : 'source', ...whole }];
  if (layout === 'difference' || layout === 'onion') return [{ kind: 'steadied', ...whole }];
  if (layout === 'wipe') {
    return [
      { kind: 'source', ...whole, to: wipe },
      { kind: 'steadied', ...whole, from: wipe },
    ];
  }
  const half = Math.max(0, Math.floor((width - GAP) / 2));
  return [
    { kind: 'source', ...whole, width: half },
    { kind: 'steadied', ...whole, x: width - half, width: half },
  ];
}

/** What is shown in a pane: a picture's size and the shape of its pixels. */
export interface Framed extends Size {
  readonly pixelAspect: number;
}

/** Screen pixels a source pixel, downwards, when the picture fits into a pane. */
export function fitScale(picture: Framed, pane: Size): number {
  return Math.min(pane.width / (picture.width * picture.pixelAspect), pane.height / picture.height) * 0.98;
}

export function scaleOf(camera: Camera, picture: Framed, pane: Size): number {
  return camera.scale ?? fitScale(picture, pane);
}

/** Framed pixels to pixels of the pane. */
export function pictureToPane(camera: Camera, picture: Framed, pane: Size): Matrix3 {
  const s = scaleOf(camera, picture, pane);
  const [cx, cy] = camera.scale === null ? [picture.width / 2, picture.height / 2] : [camera.x, camera.y];
  return chain(
    translation(pane.width / 2, pane.height / 2),
    scaling(s * picture.pixelAspect, s),
    translation(-cx, -cy),
  );
}

/** The camera after zooming by `factor` about a place of the pane, which stays where it is on screen. */
export function zoomAbout(
  camera: Camera,
  picture: Framed,
  pane: Size,
  x: number,
  y: number,
  factor: number,
): Camera {
  const s = scaleOf(camera, picture, pane);
  const next = Math.min(64, Math.max(0.05, s * factor));
  const [cx, cy] = camera.scale === null ? [picture.width / 2, picture.height / 2] : [camera.x, camera.y];
  const dx = (x - pane.width / 2) / picture.pixelAspect;
  const dy = y - pane.height / 2;
  return { scale: next, x: cx + dx / s - dx / next, y: cy + dy / s - dy / next };
}

export function panBy(camera: Camera, picture: Framed, pane: Size, dx: number, dy: number): Camera {
  const s = scaleOf(camera, picture, pane);
  const [cx, cy] = camera.scale === null ? [picture.width / 2, picture.height / 2] : [camera.x, camera.y];
  return { scale: s, x: cx - dx / (s * picture.pixelAspect), y: cy - dy / s };
}

/** Device pixels of a (cut) pane to picture pixels. */
export function deviceToPicture(toPane: Matrix3, cutLeft: number, ratio: number): Matrix3 {
  return chain(invert(toPane), translation(cutLeft, 0), scaling(1 / ratio));
}
