import { apply, invert } from '@lurn/core/geometry';
import { framingInSource, lockPlace } from '@lurn/core/plan';
import { sampleAt } from '@lurn/core/track';
import { clampSize, spotById, trackOf, type Spot } from '@lurn/model';
import { panBy, type PaneRect } from '../../../lib/view';
import { editSpot, placeSpot } from '../../../state/edit-spots';
import { setLock } from '../../../state/aims';
import { bench, setBench, useBench } from '../../../state/bench';
import { patchAt, pinPatch } from '../../../state/repairs';
import { beginGesture, cancelGesture, endGesture, shotDocument, shotState } from '../../../state/shot';
import type { Drag, PointerAt } from './tool';

const nothing = () => undefined;

/** A press that does something where it is let go, or pans where it is dragged away. @param pans  it pans in any case */
export function pressing(at: PointerAt, pane: PaneRect, press: () => void, pans = false): Drag {
  const pan = panning(at, pane);
  let moved = pans;
  return {
    move(to) {
      moved ||= Math.hypot(to.screen.x - at.screen.x, to.screen.y - at.screen.y) > 4;
      if (moved) pan.move(to);
    },
    up() {
      pan.up();
      if (!moved) press();
    },
    cancel: () => pan.cancel(),
  };
}

export function placingSpot(at: PointerAt): Drag {
  const { selected } = bench();
  beginGesture();
  const id = placeSpot(at.picture);
  const drag = draggingSpot(id, at, true);
  return {
    ...drag,
    cancel() {
      drag.cancel();
      setBench({ selected });
    },
  };
}

/** Drags a spot by the place it was taken at, so that it does not jump to the pointer. */
export function draggingSpot(id: string, at: PointerAt, begun = false): Drag {
  const spotOf = () => spotById(shotDocument(), id)!;
  const here = patchAt(spotOf(), bench().frame);
  const offset = here ? { x: here.x - at.picture.x, y: here.y - at.picture.y } : { x: 0, y: 0 };
  if (!begun) beginGesture();
  setBench({
    selected: [id],
    magnifier: { x: at.picture.x + offset.x, y: at.picture.y + offset.y, spot: id },
  });
  return {
    move(to) {
      const place = { x: to.picture.x + offset.x, y: to.picture.y + offset.y };
      pinPatch(spotOf(), place);
      setBench({ magnifier: { ...(patchAt(spotOf(), bench().frame) ?? place), spot: id } });
    },
    up() {
      endGesture();
      setBench({ magnifier: null });
    },
    cancel() {
      cancelGesture();
      setBench({ magnifier: null });
    },
  };
}

export function resizing(id: string, kind: 'patch' | 'reach'): Drag {
  beginGesture();
  const spot = (): Spot => spotById(shotDocument(), id)!;
  const centre = patchAt(spot(), bench().frame) ?? sampleAt(trackOf(shotState(), id), bench().frame)!;
  setBench({ selected: [id], magnifier: { x: centre.x, y: centre.y, spot: id } });
  return {
    move({ picture }) {
      const half = [Math.abs(picture.x - centre.x), Math.abs(picture.y - centre.y)] as const;
      const { patch } = spot();
      const size = kind === 'patch' ? half : ([half[0] - patch[0], half[1] - patch[1]] as const);
      editSpot(id, { [kind]: clampSize(kind, size) });
    },
    up() {
      endGesture();
      setBench({ magnifier: null });
    },
    cancel() {
      cancelGesture();
      setBench({ magnifier: null });
    },
  };
}

export function selecting(id: string): Drag {
  setBench({ selected: [id] });
  return { move: nothing, up: nothing, cancel: nothing };
}

export function panning(at: PointerAt, pane: PaneRect): Drag {
  const { camera: before } = bench();
  let last = at.screen;
  return {
    move({ screen }) {
      const { camera, info } = bench();
      setBench({ camera: panBy(camera, info, pane, screen.x - last.x, screen.y - last.y) });
      last = screen;
    },
    up: nothing,
    cancel: () => setBench({ camera: before }),
  };
}

export function movingCrosshair(at: PointerAt): Drag {
  const from = bench().crosshair ?? at.picture;
  return {
    move({ picture }) {
      setBench({ crosshair: { x: from.x + picture.x - at.picture.x, y: from.y + picture.y - at.picture.y } });
    },
    up: nothing,
    cancel: () => setBench({ crosshair: from }),
  };
}

/** How far the ring may lie from the pointer before it is put right, in picture pixels. */
const NEAR = 0.25;

/**
 * Drags the place in which the subject is held. The zoom that fits changes with it, and with the zoom the picture under
 * the pointer: the place follows until it is seen where the pointer is.
 */
export function movingSubject(at: PointerAt): Drag {
  const { steady } = bench();
  if (!steady) return { move: nothing, up: nothing, cancel: nothing };
  const place = lockPlace(steady.motion, shotDocument().goal.lock, steady.size);
  const seen = apply(framingInSource(steady, bench().shown), place.x, place.y);
  let goal = seen;
  beginGesture();
  const aim = () => {
    const plan = bench().steady;
    if (!plan) return;
    const framing = framingInSource(plan, bench().shown);
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
    up() {
      forget();
      endGesture();
    },
    cancel() {
      forget();
      cancelGesture();
    },
  };
}
