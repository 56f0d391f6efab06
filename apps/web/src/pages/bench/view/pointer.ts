import { apply, framingIn, invert, lockPlace, sampleAt, type Point } from '@lurn/core';
import { clampSize, type Spot } from '@lurn/model';
import { panBy, type PaneRect } from '../../../lib/view';
import { pinSpot, placeSpot, reshape } from '../../../state/acts';
import { setLock } from '../../../state/aims';
import { bench, goTo, setBench, useBench } from '../../../state/bench';
import { carryOnAt, patchAt, pinPatch } from '../../../state/repairs';
import { beginGesture, endGesture, shotDocument, shotState } from '../../../state/shot';

/** What the pointer is over when it goes down. */
export type Target =
  | { readonly kind: 'empty' }
  | { readonly kind: 'spot'; readonly id: string }
  | { readonly kind: 'patch' | 'reach'; readonly id: string }
  | { readonly kind: 'crosshair' | 'lock' };

export interface PointerAt {
  /** In picture pixels of the pane that it went down in. */
  readonly picture: Point;
  /** In CSS pixels of the twin view. */
  readonly screen: Point;
}

/** One thing done with the pointer held down: a state of the tool, from press to release. */
export interface PointerState {
  move(at: PointerAt): void;
  end(): void;
}

/** The state that a press leads to. */
export function press(target: Target, at: PointerAt, pane: PaneRect, wantsPan: boolean): PointerState {
  const mayPlace =
    pane.kind === 'source' && ['spots', 'track', 'repair'].includes(bench().station) && !bench().tracking;
  if (target.kind === 'crosshair') return movingCrosshair(at);
  if (target.kind === 'lock') return movingSubject(at);
  if (wantsPan || pane.kind === 'steadied') return panning(at, pane);
  const { tool } = bench();
  if (tool?.kind === 'rectangle') return drawing(at);
  if (tool?.kind === 'carryOn') return carrying(tool.spot, at);
  if (tool?.kind === 'byHand' && mayPlace) return placingByHand(tool.step, at, pane);
  switch (target.kind) {
    case 'spot':
      return mayPlace ? dragging(target.id, at) : selecting(target.id);
    case 'patch':
    case 'reach':
      return mayPlace ? resizing(target.id, target.kind) : selecting(target.id);
    case 'empty':
      return mayPlace && bench().station === 'spots' ? placing(at) : panning(at, pane);
  }
}

function placing(at: PointerAt): PointerState {
  beginGesture();
  const id = placeSpot(at.picture);
  return dragging(id, at, true);
}

/** Drags a spot by the place it was taken at, so that it does not jump to the pointer. */
function dragging(id: string, at: PointerAt, begun = false): PointerState {
  const spotOf = () => shotState().document.spots.find((s) => s.id === id)!;
  const here = patchAt(spotOf(), bench().frame);
  const grip = here ? { x: here.x - at.picture.x, y: here.y - at.picture.y } : { x: 0, y: 0 };
  if (!begun) beginGesture();
  setBench({ selected: [id], magnifier: { x: at.picture.x + grip.x, y: at.picture.y + grip.y, spot: id } });
  return {
    move(to) {
      const place = { x: to.picture.x + grip.x, y: to.picture.y + grip.y };
      pinPatch(spotOf(), place);
      setBench({ magnifier: { ...(patchAt(spotOf(), bench().frame) ?? place), spot: id } });
    },
    end() {
      endGesture();
      setBench({ magnifier: null });
    },
  };
}

/** Draws the rectangle within which spots are suggested. */
function drawing(at: PointerAt): PointerState {
  const from = at.picture;
  const { width, height } = bench().info;
  const inside = (v: number, size: number) => Math.min(size, Math.max(0, v));
  return {
    move({ picture: to }) {
      const x = [inside(from.x, width), inside(to.x, width)].sort((a, b) => a - b);
      const y = [inside(from.y, height), inside(to.y, height)].sort((a, b) => a - b);
      setBench({ rectangle: [x[0], y[0], x[1], y[1]] });
    },
    end() {
      const { rectangle } = bench();
      const large = rectangle && rectangle[2] - rectangle[0] > 8 && rectangle[3] - rectangle[1] > 8;
      setBench({ tool: large ? null : { kind: 'rectangle' }, rectangle: large ? rectangle : null });
    },
  };
}

/** Chooses the other feature with which a path carries on; the magnifier shows it while the pointer is down. */
function carrying(id: string, at: PointerAt): PointerState {
  let place = at.picture;
  const show = () => setBench({ magnifier: { ...place, spot: id } });
  show();
  return {
    move({ picture }) {
      place = picture;
      show();
    },
    end() {
      setBench({ magnifier: null });
      carryOnAt(id, place);
    },
  };
}

/** Pins the selected spot where it is put, and steps on. */
function placingByHand(step: number, at: PointerAt, pane: PaneRect): PointerState {
  const [id] = bench().selected;
  if (!id) return panning(at, pane);
  beginGesture();
  pinSpot(id, at.picture);
  const drag = dragging(id, at, true);
  return {
    move: drag.move,
    end() {
      drag.end();
      goTo(bench().frame + step);
    },
  };
}

function resizing(id: string, kind: 'patch' | 'reach'): PointerState {
  beginGesture();
  const spot = (): Spot => shotState().document.spots.find((s) => s.id === id)!;
  const centre = sampleAt(shotState().tracks[id], bench().frame)!;
  setBench({ selected: [id], magnifier: { x: centre.x, y: centre.y, spot: id } });
  return {
    move({ picture }) {
      const half = [Math.abs(picture.x - centre.x), Math.abs(picture.y - centre.y)] as const;
      const { patch } = spot();
      const size = kind === 'patch' ? half : ([half[0] - patch[0], half[1] - patch[1]] as const);
      reshape(id, { [kind]: clampSize(kind, size) });
    },
    end() {
      endGesture();
      setBench({ magnifier: null });
    },
  };
}

function movingCrosshair(at: PointerAt): PointerState {
  const from = bench().crosshair ?? at.picture;
  return {
    move({ picture }) {
      setBench({ crosshair: { x: from.x + picture.x - at.picture.x, y: from.y + picture.y - at.picture.y } });
    },
    end: () => undefined,
  };
}

/** How far the ring may lie from the pointer before it is put right, in picture pixels. */
const NEAR = 0.25;

/**
 * Drags the place in which the subject is held. The zoom that fits changes with it, and with the zoom the picture under
 * the pointer: the place follows until it is seen where the pointer is.
 */
function movingSubject(at: PointerAt): PointerState {
  const { steady } = bench();
  if (!steady) return { move: () => undefined, end: () => undefined };
  const place = lockPlace(steady.motion, shotDocument().goal.lock, steady.size);
  const seen = apply(framingIn(steady, bench().shown), place.x, place.y);
  let goal = seen;
  beginGesture();
  const aim = () => {
    const plan = bench().steady;
    if (!plan) return;
    const framing = framingIn(plan, bench().shown);
    const now = lockPlace(plan.motion, shotDocument().goal.lock, plan.size);
    const shown = apply(framing, now.x, now.y);
    if (Math.hypot(shown.x - goal.x, shown.y - goal.y) < NEAR) return;
    setLock({ place: 'given', ...apply(invert(framing), goal.x, goal.y) });
  };
  const forget = useBench.subscribe((now, before) => {
    if (now.steady !== before.steady) aim();
  });
  return {
    move({ picture }) {
      goal = { x: seen.x + picture.x - at.picture.x, y: seen.y + picture.y - at.picture.y };
      aim();
    },
    end() {
      forget();
      endGesture();
    },
  };
}

function selecting(id: string): PointerState {
  setBench({ selected: [id] });
  return { move: () => undefined, end: () => undefined };
}

function panning(at: PointerAt, pane: PaneRect): PointerState {
  let last = at.screen;
  return {
    move({ screen }) {
      const { camera, info } = bench();
      setBench({ camera: panBy(camera, info, pane, screen.x - last.x, screen.y - last.y) });
      last = screen;
    },
    end: () => undefined,
  };
}
