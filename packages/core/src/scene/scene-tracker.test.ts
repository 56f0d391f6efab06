import { apply, IDENTITY, invert, translation, type Matrix3 } from '../geometry/matrix.js';
import { composeSimilarity } from '../geometry/similarity.js';
import { createPlane, type Plane } from '../picture/plane.js';
import { speckledSurface, takePicture } from '../testing/footage.js';
import { signedSurface } from '../testing/surfaces.js';
import { SceneTracker } from './scene-tracker.js';
import { sampleIndex, trackCount, type SceneTracks } from './scene-tracks.js';

const [W, H] = [320, 200];
const surface = signedSurface(21);
const other = speckledSurface(22);
const hand = Array.from({ length: 20 }, (_, t) =>
  composeSimilarity(
    { x: 5 * Math.sin(t / 2), y: 4 * Math.sin(t / 3), rotation: 0.004 * t, logScale: 0.003 * t },
    { x: W / 2, y: H / 2 },
  ),
);
const take = (m: Matrix3, of = surface, seed = 1) => takePicture(of, m, W, H, { noise: 2, seed });

function followed(planes: readonly Plane[]): SceneTracks {
  const tracker = new SceneTracker();
  for (const plane of planes) tracker.add(plane);
  return tracker.finish([1, 1]);
}

/** Distances of all samples from where their first one has gone. */
function errors(tracks: SceneTracks, motion: readonly Matrix3[]): number[] {
  const out: number[] = [];
  for (let k = 0; k < trackCount(tracks); k++) {
    const [from, s] = [tracks.first[k], tracks.start[k]];
    const home = apply(invert(motion[s]), tracks.x[from], tracks.y[from]);
    for (let f = s + 1; f < tracks.frames; f++) {
      const at = sampleIndex(tracks, k, f);
      if (at < 0) continue;
      const p = apply(motion[f], home.x, home.y);
      out.push(Math.hypot(p.x - tracks.x[at], p.y - tracks.y[at]));
    }
  }
  return out;
}

describe('features of the whole picture', () => {
  it('are followed without drift, most of them all the way', () => {
    const tracks = followed(hand.map((m, t) => take(m, surface, t + 1)));
    const off = errors(tracks, hand).sort((a, b) => a - b);
    expect(off.length).toBeGreaterThan(60 * 18);
    expect(Math.sqrt(off.reduce((s, e) => s + e * e, 0) / off.length)).toBeLessThan(0.15);
    const whole = Array.from(tracks.start).filter(
      (s, k) => s === 0 && tracks.first[k + 1] - tracks.first[k] === 20,
    );
    expect(whole.length).toBeGreaterThan(40);
    expect([...tracks.cuts]).toEqual([]);
  });

  it('are in source pixels, whatever the size that they were followed on', () => {
    const tracker = new SceneTracker();
    for (const m of hand.slice(0, 4)) tracker.add(take(m));
    const [half, full] = [tracker.finish([1, 1]), tracker.finish([2, 3])];
    expect(full.x[5]).toBeCloseTo(2 * half.x[5]);
    expect(full.y[5]).toBeCloseTo(3 * half.y[5]);
  });

  it('tell of a cut on its frame', () => {
    const planes = hand.map((m, t) => take(m, t < 11 ? surface : other, t + 1));
    const tracks = followed(planes);
    expect([...tracks.cuts]).toEqual([11]);
    for (let k = 0; k < trackCount(tracks); k++) {
      const end = tracks.start[k] + tracks.first[k + 1] - tracks.first[k];
      expect(tracks.start[k] < 11 && end > 11).toBe(false);
    }
  });

  it.each([
    ['a flash', (p: Plane) => p.data.fill(255)],
    ['a black frame', (p: Plane) => p.data.fill(0)],
    ['frames of something else', (p: Plane, t: number) => p.data.set(take(IDENTITY, other, t).data)],
  ])('are followed past %s: that is no cut', (_, spoil) => {
    const planes = hand.map((m, t) => take(m, surface, t + 1));
    spoil(planes[8], 8);
    spoil(planes[9], 9);
    const tracks = followed(planes);
    expect([...tracks.cuts]).toEqual([]);
    let across = 0;
    for (let k = 0; k < trackCount(tracks); k++)
      if (sampleIndex(tracks, k, 6) >= 0 && sampleIndex(tracks, k, 14) >= 0) across++;
    expect(across).toBeGreaterThan(25);
  });

  it.each([
    ['snow', (t: number) => takePicture(() => 128, IDENTITY, W, H, { noise: 60, seed: t + 1 })],
    [
      'water',
      (t: number) => takePicture((x, y) => other(x + 37 * t * t, y + 23 * t), IDENTITY, W, H, { seed: t }),
    ],
  ])('are of no use where all is %s, and no cuts are told', (_, take) => {
    const tracks = followed(Array.from({ length: 30 }, (_, t) => take(t)));
    expect([...tracks.cuts]).toEqual([]);
  });

  it.each([
    ['black', () => createPlane(W, H)],
    ['one colour', () => ({ ...createPlane(W, H), data: new Uint8Array(W * H).fill(130) })],
  ])('are none where all is %s', (_, plane) => {
    const tracks = followed(Array.from({ length: 6 }, plane));
    expect(trackCount(tracks)).toBe(0);
    expect([...tracks.cuts]).toEqual([]);
  });

  it('need no second frame', () => {
    expect(trackCount(followed([]))).toBe(0);
    expect(trackCount(followed([take(IDENTITY)]))).toBe(0);
  });

  it('of something that crosses the picture quickly are followed too', () => {
    const box = translation(0, 0);
    const planes = Array.from({ length: 16 }, (_, t) => {
      const front = (x: number, y: number) => {
        const u = x - (20 + 9 * t);
        return u > 0 && u < 90 && y > 60 && y < 150 ? other(u + 300, y) : null;
      };
      return takePicture(surface, box, W, H, { noise: 1, seed: t + 1, front });
    });
    const tracks = followed(planes);
    let moving = 0;
    for (let k = 0; k < trackCount(tracks); k++) {
      const [a, b] = [sampleIndex(tracks, k, 5), sampleIndex(tracks, k, 9)];
      if (a >= 0 && b >= 0 && Math.abs(tracks.x[b] - tracks.x[a] - 36) < 1) moving++;
    }
    expect(moving).toBeGreaterThan(4);
  });

  it('of something that passes behind a post are the same when it comes out again', () => {
    const x = (t: number) => 12 + 4 * t + 2 * Math.sin(t / 5);
    const frames = 56;
    const planes = Array.from({ length: frames }, (_, t) => {
      const front = (u: number, y: number) => {
        if (u > 120 && u < 190) return surface(u + 700, y);
        const v = u - x(t);
        return v > 0 && v < 60 && y > 50 && y < 160 ? other(v + 300, y) : null;
      };
      return takePicture(surface, IDENTITY, W, H, { noise: 1, seed: t + 1, front });
    });
    const tracks = followed(planes);
    const [before, after] = [16, 52];
    let [across, hidden] = [0, 0];
    for (let k = 0; k < trackCount(tracks); k++) {
      const [a, b] = [sampleIndex(tracks, k, before), sampleIndex(tracks, k, after)];
      if (a < 0 || b < 0 || Math.abs(tracks.x[b] - tracks.x[a]) < 20) continue;
      expect(tracks.x[b] - tracks.x[a]).toBeCloseTo(x(after) - x(before), 0);
      across++;
      if (sampleIndex(tracks, k, 34) < 0) hidden++;
    }
    expect(across).toBeGreaterThan(1);
    expect(hidden).toBeGreaterThan(0);
  });
});
