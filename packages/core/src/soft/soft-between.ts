import { LurnError, type AbortSignalLike } from '../errors.js';
import type { FrameSource } from '../track/frame-run.js';
import { withoutSamples } from '../track/measured.js';
import {
  EMPTY_SOFT_TRACK,
  softAt,
  softSample,
  withSoftSamples,
  type SoftSample,
  type SoftTrack,
  type SoftVertex,
} from './soft-track.js';
import { trackSoft, type SoftToTrack } from './track-soft.js';

/** A vertex that was not seen counts this much beside one that was. */
const GUESSED = 0.01;

/**
 * Follows a soft surface from two frames on which it is known towards each other and joins the passes, vertex by vertex:
 * the mean of what each saw, by its confidence and its nearness to its own end.
 *
 * @param a, b  frames on which it is known, a before b
 * @returns the samples strictly between them
 * @throws LurnError `no-pin` when one of the frames has no sample; `stopped`; and what the source throws
 */
export async function trackSoftBetween(
  source: FrameSource,
  soft: SoftToTrack,
  a: number,
  b: number,
  signal?: AbortSignalLike,
  onProgress: (done: number, total: number) => void = () => undefined,
): Promise<readonly SoftSample[]> {
  const total = 2 * (b - a - 1);
  const known = (f: number) => f === soft.frame || softAt(soft.track, f) !== null;
  if (!known(a) || !known(b) || b <= a)
    throw new LurnError(
      'no-pin',
      `"${soft.name}" has to be known on both sides of the stretch to be tracked.`,
    );
  const bare = { ...soft, track: withoutSamples(soft.track, a + 1, b - 1, (state) => state !== 'pinned') };
  const pass = async (from: number, to: number, before: number): Promise<SoftTrack> => {
    let track: SoftTrack = EMPTY_SOFT_TRACK;
    const coasting = { ...bare, settings: { ...soft.settings, lowMatch: 'coast' as const } };
    for await (const step of trackSoft(source, { soft: [coasting], from, to }, signal)) {
      track = withSoftSamples(
        track,
        step.samples.map((s) => s.sample),
      );
      onProgress(before + step.done, total);
    }
    return track;
  };
  const forth = await pass(a, b - 1, 0);
  const back = await pass(b, a + 1, b - a - 1);
  const out: SoftSample[] = [];
  for (let frame = a + 1; frame < b; frame++) {
    const [p, q] = [softAt(forth, frame), softAt(back, frame)];
    if (!p && !q) continue;
    const t = (frame - a) / (b - a);
    const vertices = (p ?? q)!.vertices.map((_, v) =>
      joined(p?.vertices[v] ?? null, q?.vertices[v] ?? null, t),
    );
    out.push(softSample(frame, vertices, Math.max(p?.held ?? 0, q?.held ?? 0)));
  }
  return out;
}

function joined(p: SoftVertex | null, q: SoftVertex | null, t: number): SoftVertex | null {
  if (!p || !q) return p ?? q;
  if (p.state === 'pinned') return p;
  const trust = (v: SoftVertex) => (v.state === 'tracked' ? v.confidence : GUESSED);
  const [u, w] = [(1 - t) * trust(p), t * trust(q)];
  const share = w / (u + w);
  const better = trust(p) >= trust(q) ? p : q;
  return { ...better, x: p.x + share * (q.x - p.x), y: p.y + share * (q.y - p.y) };
}
