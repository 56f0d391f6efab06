import { LurnError, type AbortSignalLike } from '../errors.js';
import type { Quad } from '../geometry/homography.js';
import { withoutSamples } from '../track/measured.js';
import { DISAGREEMENT } from '../track/between-pins.js';
import type { FrameSource } from '../track/frame-run.js';
import {
  EMPTY_SURFACE_TRACK,
  farthestApart,
  surfaceAt,
  withSurfaceSamples,
  type SurfaceSample,
  type SurfaceTrack,
} from './surface-track.js';
import { trackSurfaces, type SurfaceToTrack } from './track-surfaces.js';

/** A guess counts this much beside what was seen. */
const GUESSED = 0.001;
const COAST_CONFIDENCE = 0.3;

/**
 * Follows a surface from two pins towards each other and joins the passes, as spots are: exact at both pins, and in
 * between the mean of what each saw, by its confidence and its nearness to its own pin. Corners that the passes disagree
 * about are told of with each sample.
 *
 * @param a, b  frames on which it is known, a before b
 * @returns the samples strictly between them, and on how many of the frames neither side saw it
 * @throws LurnError `no-pin` when one of the frames has no sample; `stopped`; and what the source throws
 */
export async function trackSurfaceBetween(
  source: FrameSource,
  surface: SurfaceToTrack,
  a: number,
  b: number,
  others: readonly SurfaceToTrack[] = [],
  signal?: AbortSignalLike,
  onProgress: (done: number, total: number) => void = () => undefined,
): Promise<{ readonly samples: readonly SurfaceSample[]; readonly unseen: number }> {
  const total = 2 * (b - a - 1);
  const [first, last] = [surfaceAt(surface.track, a), surfaceAt(surface.track, b)];
  if (!first || !last || b <= a)
    throw new LurnError(
      'no-pin',
      `"${surface.name}" needs a pin on both sides of the stretch to be tracked.`,
    );
  const bare = withoutSamples(surface.track, a + 1, b - 1);
  const pass = async (from: number, to: number, before: number) => {
    // The far pin belongs to the other pass: this one must not start anew from it.
    const own = withoutSamples(bare, to, to);
    let track: SurfaceTrack = EMPTY_SURFACE_TRACK;
    const coasting = {
      ...surface,
      track: own,
      settings: { ...surface.settings, lowMatch: 'coast' as const },
    };
    for await (const step of trackSurfaces(source, { surfaces: [coasting], others, from, to }, signal)) {
      track = withSurfaceSamples(
        track,
        step.samples.map((s) => s.sample),
      );
      for (const { since } of step.stopped)
        track = withoutSamples(track, Math.min(since, step.frame), Math.max(since, step.frame));
      onProgress(before + step.done, total);
    }
    return track;
  };
  const forth = await pass(a, b, 0);
  const back = await pass(b, a, b - a - 1);
  const samples = joined(forth, back, first, last);
  return { samples, unseen: samples.filter((s) => s.state === 'coasted').length };
}

/** By how much each corner of a pass misses a pin; nothing where it did not see it there. */
function missOf(pass: SurfaceTrack, pin: SurfaceSample): Quad {
  const end = surfaceAt(pass, pin.frame);
  const seen = end?.state === 'tracked';
  return pin.corners.map((p, k) =>
    seen ? { x: p.x - end.corners[k].x, y: p.y - end.corners[k].y } : { x: 0, y: 0 },
  ) as unknown as Quad;
}

/** Two passes between two samples as one, each bent so that it meets the far one. */
function joined(
  forth: SurfaceTrack,
  back: SurfaceTrack,
  a: SurfaceSample,
  b: SurfaceSample,
): SurfaceSample[] {
  const [missB, missA] = [missOf(forth, b), missOf(back, a)];
  const bentBy = (sample: SurfaceSample | null, miss: Quad, share: number) =>
    sample &&
    (sample.corners.map((p, k) => ({
      x: p.x + share * miss[k].x,
      y: p.y + share * miss[k].y,
    })) as unknown as Quad);
  const out: SurfaceSample[] = [];
  for (let frame = a.frame + 1; frame < b.frame; frame++) {
    const t = (frame - a.frame) / (b.frame - a.frame);
    const [p, q] = [surfaceAt(forth, frame), surfaceAt(back, frame)];
    const [f, g] = [bentBy(p, missB, t), bentBy(q, missA, 1 - t)];
    const trust = (s: SurfaceSample | null) => (s?.state === 'tracked' ? s.confidence : 0);
    const [u, v] = [f ? (1 - t) * (trust(p) || GUESSED) : 0, g ? t * (trust(q) || GUESSED) : 0];
    const seen = trust(p) > 0 || trust(q) > 0;
    const [from, to] = [f ?? g ?? a.corners, g ?? f ?? b.corners];
    const share = u + v > 0 ? v / (u + v) : t;
    const corners = from.map((c, k) => ({
      x: c.x + share * (to[k].x - c.x),
      y: c.y + share * (to[k].y - c.y),
    })) as unknown as Quad;
    const apart = trust(p) > 0 && trust(q) > 0 && f && g ? farthestApart(f, g) : 0;
    const off = apart > DISAGREEMENT;
    out.push({
      ...{ frame, corners, state: seen ? 'tracked' : 'coasted' },
      confidence: seen ? Math.max(trust(p), trust(q)) * (off ? 0.5 : 1) : COAST_CONFIDENCE,
      ...(off && { mismatch: apart }),
    });
  }
  return out;
}
