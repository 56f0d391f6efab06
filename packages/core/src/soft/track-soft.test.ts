import type { Point } from '../geometry/matrix.js';
import { evaluatorOf } from '../geometry/warp.js';
import { PLAIN_EYE } from '../picture/eye.js';
import { createPlane } from '../picture/plane.js';
import { CLOTH, clothPictures, inMemory, onCloth } from '../testing/cloth.js';
import { speckledSurface } from '../testing/footage.js';
import { makeMesh } from './mesh-making.js';
import { trackSoftBetween } from './soft-between.js';
import {
  EMPTY_SOFT_TRACK,
  endedOn,
  softAt,
  softSample,
  withSoftSamples,
  type SoftTrack,
  type SoftVertex,
} from './soft-track.js';
import { softWarp, unbent } from './soft-warps.js';
import { trackSoft, type SoftToTrack } from './track-soft.js';

const p = (x: number, y: number): Point => ({ x, y });
const OUTLINE = [p(30, 30), p(190, 30), p(190, 150), p(30, 150)];
const MESH = makeMesh({ outline: OUTLINE, spacing: 20, fit: 'even' });
const SURFACE = speckledSurface(31);
const PICTURES = clothPictures(SURFACE);
const LAST = CLOTH.frames - 1;

function cloth(
  track: SoftTrack = EMPTY_SOFT_TRACK,
  more: Partial<SoftToTrack['settings']> = {},
): SoftToTrack {
  const shape = OUTLINE.map(({ x, y }) => [x, y] as const);
  return {
    ...{ id: 'c', name: 'cloth', frame: 0, vertices: MESH.vertices, track },
    shapes: [{ kind: 'focus', smooth: false, keys: [{ frame: 0, shape }] }],
    settings: {
      stiffness: 1,
      refresh: 'never',
      lowMatch: 'coast',
      minConfidence: 0.05,
      eye: PLAIN_EYE,
      ...more,
    },
  };
}

/** @param mayEnd  true where nothing may be left of it before the end */
async function followed(
  planes = PICTURES,
  one = cloth(),
  from = 0,
  to = LAST,
  mayEnd = false,
): Promise<SoftTrack> {
  let { track } = one;
  for await (const step of trackSoft(inMemory(planes), { soft: [one], from, to })) {
    if (!mayEnd) expect(step.stopped).toEqual([]);
    track = withSoftSamples(
      track,
      step.samples.map((s) => s.sample),
    );
  }
  return track;
}

/** What comes of following it as it is: begun once for all tests that begin from there. */
let asItIs: Promise<SoftTrack> | null = null;
const followedOnce = () => (asItIs ??= followed());

/** Distances of the vertices from the truth on a frame; null where one is not shown as seen. */
const offOn = (track: SoftTrack, frame: number) =>
  softAt(track, frame)!.vertices.map((v, i) => {
    const truth = onCloth(MESH.vertices[i], frame);
    return v && v.state === 'tracked' ? Math.hypot(v.x - truth.x, v.y - truth.y) : null;
  });
const rms = (off: readonly (number | null)[]) => {
  const known = off.filter((d) => d !== null);
  return Math.sqrt(known.reduce((s, d) => s + d * d, 0) / known.length);
};

describe('a soft surface', () => {
  it('is followed through its ripples, forwards and backwards', async () => {
    const forth = await followedOnce();
    expect(rms(offOn(forth, LAST))).toBeLessThan(0.25);
    const there = MESH.vertices.map((v): SoftVertex => ({
      ...onCloth(v, LAST),
      confidence: 1,
      state: 'tracked',
    }));
    const known = withSoftSamples(EMPTY_SOFT_TRACK, [softSample(LAST, there)]);
    const back = await followed(PICTURES, cloth(known), LAST, 1);
    expect(rms(offOn(back, 2))).toBeLessThan(0.25);
  });

  it('whose looks change into others is followed by what it looks like since', async () => {
    // A draught-board: what is on its dark squares fades, and on the light ones something else comes.
    const dark = (u: number, v: number) => (Math.floor(u / 22) + Math.floor(v / 22)) % 2 === 0;
    const seen = (track: SoftTrack) => offOn(track, 39).filter((d) => d !== null).length;
    let goesOn = 0;
    for (const seed of [77, 78]) {
      const other = speckledSurface(seed);
      const changed = clothPictures((u, v) => (dark(u, v) ? SURFACE(u, v) : 120), {
        frames: 40,
        becomes: { surface: (u, v) => (dark(u, v) ? 120 : other(u, v)), share: (t) => Math.min(1, t / 30) },
      });
      const anew = await followed(changed, cloth(EMPTY_SOFT_TRACK, { lowMatch: 'carryOn', refresh: 'auto' }), 0, 39); // prettier-ignore
      goesOn += seen(anew);
      expect(rms(offOn(anew, 39))).toBeLessThan(2.2);
      if (seed !== 77) continue;
      // By its first looks alone nothing is left to see of it.
      const kept = await followed(changed, cloth(EMPTY_SOFT_TRACK, { lowMatch: 'carryOn' }), 0, 39, true);
      if (!softAt(kept, 39)) continue;
      expect(rms(offOn(kept, 39))).toBeGreaterThan(10);
      expect(seen(kept)).toBeLessThan(0.3 * MESH.vertices.length);
    }
    // By later ones it goes on, and what was left out comes back.
    expect(goesOn).toBeGreaterThan(0.45 * 2 * MESH.vertices.length);
  });

  it('is laid flat, and given back to where it was', async () => {
    const track = await followedOnce();
    const mesh = softWarp({ frame: 0, mesh: MESH, track, levels: 2 }, 0, 9)!;
    const [forth, back] = [evaluatorOf(mesh), evaluatorOf(unbent(mesh))];
    for (let y = 40; y < 140; y += 9) {
      for (let x = 40; x < 180; x += 9) {
        const [there, truth] = [forth.at(x, y), onCloth(p(x, y), 9)];
        expect(Math.hypot(there.x - truth.x, there.y - truth.y)).toBeLessThan(0.8);
        const again = back.at(there.x, there.y);
        expect(Math.hypot(again.x - x, again.y - y)).toBeLessThan(0.001);
      }
    }
  });

  it('hides the points that something covers, holds the others, and has them back', async () => {
    const front = (x: number, _: number, t: number) => t >= 4 && t < 8 && x > 60 && x < 110;
    const track = await followed(clothPictures(SURFACE, { front }));
    const covered = MESH.vertices.map((v) => Math.abs(onCloth(v, 6).x - 85) < 17);
    const on6 = softAt(track, 6)!;
    on6.vertices.forEach((v, i) => covered[i] && expect(v?.state).not.toBe('tracked'));
    expect(rms(offOn(track, 6))).toBeLessThan(0.5);
    expect(offOn(track, 10).filter((d) => d === null).length).toBeLessThan(3);
  });

  it('keeps its points where it has little texture and nothing stands in front, in noise', async () => {
    const faded = (u: number, v: number) =>
      118 + (SURFACE(u, v) - 118) * Math.min(1, Math.max(0.05, (v - 60) / 30));
    const track = await followed(clothPictures(faded, { noise: 6 }));
    expect(endedOn(track, LAST)).toBe(0);
    expect(offOn(track, LAST).filter((d) => d === null).length).toBeLessThan(3);
  });

  it('never moves a pin, and brings what was put wrongly back by the picture', async () => {
    const track = await followedOnce();
    const at = softAt(track, 6)!;
    const centre = MESH.vertices.findIndex((v) => v.x === 110 && v.y === 90);
    const wrong = at.vertices.map((v, i): SoftVertex | null => {
      const { x, y } = MESH.vertices[i];
      if (i === centre) return { ...onCloth({ x, y }, 6), confidence: 1, state: 'pinned' };
      return v && Math.hypot(x - 110, y - 90) < 45 ? { ...v, x: v.x + 6, y: v.y - 5 } : v;
    });
    const again = await followed(PICTURES, cloth(withSoftSamples(track, [softSample(6, wrong)])), 6);
    expect(softAt(again, 6)!.vertices[centre]).toEqual(wrong[centre]);
    expect(Math.max(...offOn(again, 6).map((d) => d ?? 0))).toBeLessThan(1.5);
    expect(Math.max(...offOn(again, 8).map((d) => d ?? 0))).toBeLessThan(1.5);
  });

  it('is followed between two frames from both sides', async () => {
    const track = await followedOnce();
    const samples = await trackSoftBetween(inMemory(PICTURES), cloth(track), 3, 9);
    expect(samples.map((s) => s.frame)).toEqual([4, 5, 6, 7, 8]);
    expect(rms(offOn(withSoftSamples(track, samples), 6))).toBeLessThan(0.35);
    await expect(trackSoftBetween(inMemory(PICTURES), cloth(), 3, 9)).rejects.toThrow('known on both sides');
  });

  it('goes by hints, as far as they can be believed, where it cannot be seen, and by its texture where it can', async () => {
    const front = (x: number, _: number, t: number) => t >= 1 && x > 130;
    const pictures = clothPictures(SURFACE, { front });
    // Each place told 0.8 px to the right of the truth.
    const hints = (frame: number) =>
      Promise.resolve(
        new Map(
          MESH.vertices.map((at, i) => {
            const { x, y } = onCloth(at, frame);
            return [i, { at, to: { x: x + 0.8, y }, sd: 2.5 }] as const;
          }),
        ),
      );
    const off = (track: SoftTrack, frame: number, hidden: boolean) =>
      softAt(track, frame)!.vertices.flatMap((v, i) => {
        const truth = onCloth(MESH.vertices[i], frame);
        const covered = truth.x > 150;
        const clear = truth.x < 110;
        return v && (hidden ? covered : clear) ? [Math.hypot(v.x - truth.x, v.y - truth.y)] : [];
      });
    const mean = (list: number[]) => list.reduce((sum, d) => sum + d, 0) / list.length;
    const alone = await followed(pictures, cloth());
    const led = await followed(pictures, { ...cloth(), hints });
    const over = (track: SoftTrack, hidden: boolean) =>
      mean([4, 6, 8].map((f) => mean(off(track, f, hidden))));
    expect(over(led, false)).toBeLessThan(over(alone, false) + 0.05);
    expect(over(led, true)).toBeLessThan(0.7 * over(alone, true));
    // Nothing ends while something tells of it.
    expect(off(led, LAST, true).length).toBeGreaterThan(off(alone, LAST, true).length);

    const blank = PICTURES.map((plane, t) => (t < 3 ? plane : createPlane(plane.width, plane.height)));
    let track = EMPTY_SOFT_TRACK;
    for await (const step of trackSoft(inMemory(blank), { soft: [{ ...cloth(), hints }], from: 0, to: 10 }))
      track = withSoftSamples(track, step.samples.map((s) => s.sample)); // prettier-ignore
    const gone = softAt(track, 9)!;
    expect(gone.state).toBe('coasted');
    gone.vertices.forEach((v, i) => {
      const truth = onCloth(MESH.vertices[i], 9);
      expect(Math.hypot(v!.x - truth.x, v!.y - truth.y)).toBeLessThan(1.5);
    });
  });

  it('ends all its points where it is gone, and says so', async () => {
    const blank = PICTURES.map((plane, t) => (t < 3 ? plane : createPlane(plane.width, plane.height)));
    const reasons: string[] = [];
    let track = EMPTY_SOFT_TRACK;
    for await (const step of trackSoft(inMemory(blank), { soft: [cloth()], from: 0, to: LAST })) {
      track = withSoftSamples(track, step.samples.map((s) => s.sample)); // prettier-ignore
      reasons.push(...step.stopped.map((s) => `${s.reason} ${s.since}`));
    }
    expect(reasons).toEqual(['not-found-again 3']);
    expect(softAt(track, 8)!.state).toBe('coasted');
    expect(endedOn(track, 2)).toBe(0);
  });

  it('cannot begin without texture, outside, or where it is not known', async () => {
    const flat = [0, 1].map(() => ({ ...createPlane(240, 180), data: new Uint8Array(240 * 180).fill(90) }));
    for await (const step of trackSoft(inMemory(flat), { soft: [cloth()], from: 0, to: 1 }))
      expect(step.stopped[0].message).toContain('no texture');
    const run = trackSoft(inMemory(PICTURES), { soft: [cloth()], from: 5, to: 6 });
    await expect(run.next()).rejects.toThrow('"cloth" is not known on frame 5');
  });
});
