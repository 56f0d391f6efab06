import { bench } from '../../../state/bench';
import { shotDocument } from '../../../state/shot';
import { showsAt } from '../../../state/stations';
import {
  draggingSpot,
  movingCrosshair,
  movingSubject,
  panning,
  placingSpot,
  resizing,
  selecting,
} from './drags';
import { isTracked } from '../../../state/outlines';
import { draggingOutline } from './dragging-outline';
import { draggingPlaced } from './dragging-placed';
import { draggingQuad } from './dragging-quad';
import { draggingLaidCorner, draggingVertex } from './soft/dragging-vertex';
import { Tool, type Drag, type Press } from './tool';

/** What lies on the pictures in any case, and panning; null where the press is the tool's own. */
export function common({ at, target, pane, pans }: Press): Drag | null {
  if (target.kind === 'crosshair') return movingCrosshair(at);
  if (target.kind === 'lock') return movingSubject(at);
  return pans || pane.kind === 'steadied' ? panning(at, pane) : null;
}

/** The hand itself: places, drags and resizes spots where the station lets it, and pans elsewhere. */
export class MarkTool extends Tool {
  hint(): string | null {
    return showsAt(bench().station).places && shotDocument().trackers.length === 0
      ? 'Press on a corner of something that should stand still, and drag to place it exactly.'
      : null;
  }

  protected press(press: Press): Drag {
    const { at, target, pane } = press;
    const may = showsAt(bench().station).marks === true && !bench().tracking;
    if (target.kind === 'outline' && !press.pans)
      return may || !isTracked(target.outline)
        ? draggingOutline(target, press)
        : selecting(target.outline.id);
    if (target.kind === 'placed' && !press.pans) return draggingPlaced(target, press);
    if (target.kind === 'quad' && !press.pans)
      return may ? draggingQuad(target, at) : selecting(target.surface);
    if (target.kind === 'vertex' && !press.pans)
      return may ? draggingVertex(target, press) : selecting(target.soft);
    if (target.kind === 'laid' && !press.pans && may) return draggingLaidCorner(target, at);
    const first = common(press);
    if (first) return first;
    switch (target.kind) {
      case 'spot':
        return may ? draggingSpot(target.id, at) : selecting(target.id);
      case 'patch':
      case 'reach':
        return may ? resizing(target.id, target.kind) : selecting(target.id);
      default:
        return may && showsAt(bench().station).places ? placingSpot(at) : panning(at, pane);
    }
  }
}
