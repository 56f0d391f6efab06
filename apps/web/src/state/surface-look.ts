import { create } from 'zustand';
import type { Quad } from '@lurn/core/geometry';
import { quadOn } from '@lurn/core/track';
import type { SurfaceLook } from '@lurn/core/warp';
import { quadOf, surfaceById, surfaceToTrack, surfaceTrackOf, type Surface } from '@lurn/model';
import { bench, useBench } from './bench';
import { shotDocument, shotState, useShot } from './shot';
import { motionOn, selectedSurface } from './surfaces';
import type { Tracker } from './tracking';

/** What was seen of a surface on a frame, and of which state of it. */
interface Looked extends SurfaceLook {
  readonly id: string;
  readonly frame: number;
}

const useLook = create<{ readonly looked: Looked | null; readonly wanted: number }>()(() => ({
  looked: null,
  wanted: 0,
}));

/** The longer side of a surface laid flat, in pixels. */
const LONG = 420;

/** The last look at a surface, if it is that of a frame; null where there is none. */
export function useLooked(id: string, frame: number): SurfaceLook | null {
  return useLook((s) => (s.looked?.id === id && s.looked.frame === frame ? s.looked : null));
}

/** The last look at a surface, whatever the frame: while it plays the next one is on its way. */
export function useLastLook(id: string): Looked | null {
  return useLook((s) => (s.looked?.id === id ? s.looked : null));
}

/** Says that somebody looks at the selected surface closely. @returns what ends it */
export function wantLooks(): () => void {
  useLook.setState(({ wanted }) => ({ wanted: wanted + 1 }));
  return () => useLook.setState(({ wanted }) => ({ wanted: wanted - 1 }));
}

/** How large a quad is when laid flat: as it looks on the surface's own frame. */
export function flatSize(quad: Quad): { width: number; height: number } {
  const side = (i: number, j: number) => Math.hypot(quad[i].x - quad[j].x, quad[i].y - quad[j].y);
  const [w, h] = [(side(0, 1) + side(3, 2)) / 2, (side(0, 3) + side(1, 2)) / 2];
  const scale = LONG / Math.max(w, h, 1);
  return { width: Math.max(8, Math.round(w * scale)), height: Math.max(8, Math.round(h * scale)) };
}

/** Keeps looking at the selected surface on the frame that is shown, as long as somebody wants to know. @returns what ends it */
export function keepLooking(tracker: Tracker): () => void {
  let busy = false;
  let done = '';
  const key = (surface: Surface, frame: number) => {
    const corners = quadOn(
      quadOf(surface.base),
      quadOf(surface.quad),
      surfaceTrackOf(shotState(), surface.id),
      frame,
    );
    return JSON.stringify([surface.id, frame, surface.shapes, surface.quad, surface.eye, corners]);
  };
  const next = async () => {
    const surface = selectedSurface();
    const wanted = useLook.getState().wanted > 0 || bench().misfits;
    if (busy || !surface || !wanted || bench().tracking) return;
    const frame = bench().shown;
    const now = key(surface, frame);
    const m = motionOn(surface, frame);
    if (now === done || !m) return;
    busy = true;
    done = now;
    try {
      const quad = quadOf(surface.quad);
      const track = surfaceTrackOf(shotState(), surface.id);
      const look = await tracker.look(surfaceToTrack(surface, track), frame, m, quad, flatSize(quad));
      if (look && surfaceById(shotDocument(), surface.id))
        useLook.setState({ looked: { ...look, id: surface.id, frame } });
    } catch {
      // A frame that cannot be read is told of by the view.
    }
    busy = false;
    void next();
  };
  const stops = [
    useBench.subscribe((now, before) => {
      const same =
        now.shown === before.shown &&
        now.selected === before.selected &&
        now.misfits === before.misfits &&
        now.tracking === before.tracking;
      if (!same) void next();
    }),
    useShot.subscribe(() => void next()),
    useLook.subscribe((now, before) => {
      if (now.wanted !== before.wanted) void next();
    }),
  ];
  return () => stops.forEach((stop) => stop());
}
