import { plainly } from '@lurn/kernels';
import type { Area } from '../geometry/area.js';
import { farthestApart, surfaceMotion, EMPTY_SURFACE_TRACK, withSurfaceSamples } from './surface-track.js';
import { isClockwise, moveQuad, quadToQuad, rectangle, type Quad } from '../geometry/homography.js';
import { multiply, translation } from '../geometry/matrix.js';
import { speckledSurface, takePicture, type Spoiling } from '../testing/footage.js';
import { signedSurface } from '../testing/surfaces.js';
import type { Plane } from '../picture/plane.js';
import type { FrameSource } from '../track/frame-run.js';
import { closedBy } from '../track/track-spots.js';
import { trackSurfaceBetween } from './surface-between.js';
import { trackSurfaces, type SurfaceStep, type SurfaceToTrack } from './track-surfaces.js';
import type { SurfaceSettings } from './surface-tracker.js';

/** A panel that leans and turns before a wall, with truth. */

const [W, H] = [280, 200];
const PANEL = rectangle(0, 0, 120, 90);
const signs = signedSurface(7);
const wall = speckledSurface(77);

function cornersAt(t: number, slide = 0): Quad {
  const s = 1.15 + 0.1 * Math.sin(t / 9);
  const a = 0.12 * Math.sin(t / 7);
  const lean = 0.001 * Math.sin(t / 8);
  return moveQuad(
    multiply(translation(140 + 9 * Math.sin(t / 5) + slide, 100 + 6 * Math.cos(t / 4)), [
      ...([s * Math.cos(a), -s * Math.sin(a), 0, s * Math.sin(a), s * Math.cos(a), 0] as const),
      ...([lean, -lean / 2, 1] as const),
    ]),
    rectangle(-60, -45, 60, 45),
  );
}

function film(
  frames: number,
  spoil: (t: number) => Spoiling = () => ({}),
  slide: (t: number) => number = () => 0,
): Plane[] {
  return Array.from({ length: frames }, (_, t) => {
    const inside = (x: number, y: number) => x >= 0 && y >= 0 && x <= 120 && y <= 90;
    const seen = (x: number, y: number) => (inside(x, y) ? signs(x, y) : wall(x + 300, y + 5 * t));
    const m = quadToQuad(PANEL, cornersAt(t, slide(t)))!;
    return takePicture(seen, m, W, H, { noise: 2, seed: t + 1, ...spoil(t) });
  });
}

const sourceOf = (planes: readonly Plane[]): FrameSource => ({ plane: (f) => Promise.resolve(planes[f]) });
const outline = (quad: Quad) => quad.map((p) => [p.x, p.y] as const);
const drawn = (quad: Quad, frame = 0): Area => ({
  ...{ kind: 'focus', smooth: false, keys: [{ frame, shape: outline(quad) }] },
});

function panel(
  change: Partial<SurfaceToTrack> = {},
  settings: Partial<SurfaceSettings> = {},
): SurfaceToTrack {
  const base = cornersAt(0);
  return {
    ...{ id: 'p', name: 'panel', frame: 0, base, shapes: [drawn(base)], behind: [] },
    track: EMPTY_SURFACE_TRACK,
    settings: {
      ...{ allow: 'perspective', refresh: 'auto', lowMatch: 'coast', minConfidence: 0.05 },
      eye: { channel: 'luma', soften: 0, detail: 0, localContrast: 0 },
      ...settings,
    },
    ...change,
  };
}

async function run(source: FrameSource, surfaces: readonly SurfaceToTrack[], to: number, from = 0) {
  const steps: SurfaceStep[] = [];
  for await (const step of trackSurfaces(source, { surfaces, from, to })) steps.push(step);
  const samples = steps.flatMap((s) => s.samples.filter((x) => x.id === 'p').map((x) => x.sample));
  return { steps, samples, stopped: steps.flatMap((s) => s.stopped) };
}

describe('a flat surface', () => {
  it('is found with how it leans, to a twentieth of a pixel', async () => {
    const { samples } = await run(sourceOf(film(16)), [panel()], 15);
    expect(samples).toHaveLength(15);
    for (const s of samples) expect(farthestApart(s.corners, cornersAt(s.frame))).toBeLessThan(0.08);
    expect(samples.every((s) => s.confidence > 0.9 && s.held! > 0.9)).toBe(true);
  });

  it('is the same backwards, and nearly the same without kernels', async () => {
    const planes = film(8);
    const source = sourceOf(planes);
    const base = cornersAt(7);
    const last = panel({ frame: 7, base, shapes: [drawn(base, 7)] });
    const { samples } = await run(source, [last], 0, 7);
    expect(samples.map((s) => s.frame)).toEqual([6, 5, 4, 3, 2, 1, 0]);
    for (const s of samples) expect(farthestApart(s.corners, cornersAt(s.frame))).toBeLessThan(0.08);
    const there = await run(source, [panel()], 7);
    const plain = await plainly(() => run(source, [panel()], 7));
    plain.samples.forEach((s, i) =>
      expect(farthestApart(s.corners, there.samples[i].corners)).toBeLessThan(0.01),
    );
  });

  it('is held while a dark bar sweeps across it, which is left out by itself', async () => {
    const at = (t: number) => 60 + 14 * t;
    const bar = (t: number) => ({ front: (x: number) => (Math.abs(x - at(t)) < 18 && t > 0 ? 30 : null) });
    const { samples, steps } = await run(sourceOf(film(12, bar)), [panel()], 11);
    for (const s of samples) expect(farthestApart(s.corners, cornersAt(s.frame))).toBeLessThan(0.2);
    const middle = steps.find((s) => s.frame === 6)!.fits[0].found;
    expect(middle.held).toBeLessThan(0.85);
    expect(middle.blocks.some((b) => b.seen && b.weight === 0)).toBe(true);
  });

  it('goes on with the part that is in the picture', async () => {
    const slide = (t: number) => 9 * t;
    const { samples } = await run(sourceOf(film(16, () => ({}), slide)), [panel()], 15);
    expect(samples).toHaveLength(15);
    for (const s of samples)
      expect(farthestApart(s.corners, cornersAt(s.frame, slide(s.frame)))).toBeLessThan(0.5);
  });

  it('is coasted while it is hidden, and found on the frame it comes back', async () => {
    const hidden = (t: number) => t >= 5 && t < 11;
    const cloth = (t: number) => (hidden(t) ? { front: (x: number, y: number) => wall(x + 90, y + t) } : {});
    const { samples } = await run(sourceOf(film(16, cloth)), [panel()], 15);
    const state = (f: number) => samples.filter((s) => s.frame === f).pop()!.state;
    expect([4, 5, 10, 11].map(state)).toEqual(['tracked', 'coasted', 'coasted', 'tracked']);
    for (const s of samples.filter((x) => x.frame >= 11))
      expect(farthestApart(s.corners, cornersAt(s.frame))).toBeLessThan(0.1);
  });

  it('may only shift where that is said', async () => {
    const { samples } = await run(sourceOf(film(6)), [panel({}, { allow: 'shift' })], 5);
    const { corners } = samples[samples.length - 1];
    const [dx, dy] = [corners[0].x - panel().base[0].x, corners[0].y - panel().base[0].y];
    corners.forEach((p, k) => {
      expect(p.x - panel().base[k].x).toBeCloseTo(dx, 6);
      expect(p.y - panel().base[k].y).toBeCloseTo(dy, 6);
    });
  });

  it('is not measured where an area or another surface covers it', async () => {
    const cloth = (t: number) => ({ front: (x: number) => (t > 0 && x > 150 ? 220 : null) });
    const source = sourceOf(film(5, cloth));
    const shape = [
      [150, -1],
      [300, -1],
      [300, 201],
      [150, 201],
    ] as const;
    const area: Area = { kind: 'ignore', smooth: false, keys: [{ frame: 0, shape }] };
    const { steps, samples } = await run(closedBy(source, [area]), [panel()], 4);
    // What is closed on its own frame is no part of it at all.
    expect(steps.every((s) => s.fits[0].found.held > 0.95)).toBe(true);
    for (const s of samples) expect(farthestApart(s.corners, cornersAt(s.frame))).toBeLessThan(0.4);
    const cover = rectangle(150, 0, 280, 200);
    const front = panel(
      { id: 'front', name: 'front', base: cover, shapes: [drawn(cover)] },
      { lowMatch: 'coast' },
    );
    const behind = await run(source, [panel({ behind: ['front'] }), front], 2);
    expect(behind.samples).toHaveLength(2);
  });

  it('has parts that are measured for a while only', async () => {
    const base = cornersAt(0);
    const left = rectangle(base[0].x, base[0].y, 140, base[3].y);
    const keyed: Area = {
      ...drawn(base),
      keys: [
        { frame: 0, shape: outline(base) },
        { frame: 1, shape: outline(left) },
      ],
    };
    const { steps } = await run(sourceOf(film(4)), [panel({ shapes: [keyed] })], 3);
    expect(steps[2].fits[0].found.seen).toBeLessThan(0.7);
    expect(steps[2].fits[0].found.seen).toBeGreaterThan(0.3);
  });

  it('goes on from a pin, and between two meets both', async () => {
    const source = sourceOf(film(12));
    const off = { x: 1.5, y: -1 };
    const moved = cornersAt(10).map((p) => ({ x: p.x + off.x, y: p.y + off.y })) as unknown as Quad;
    const track = withSurfaceSamples(EMPTY_SURFACE_TRACK, [
      { frame: 0, corners: cornersAt(0), confidence: 1, state: 'pinned' },
      { frame: 10, corners: moved, confidence: 1, state: 'pinned' },
    ]);
    const { samples, unseen } = await trackSurfaceBetween(source, panel({ track }), 0, 10);
    expect(unseen).toBe(0);
    expect(samples.map((s) => s.frame)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9]);
    expect(farthestApart(samples[0].corners, cornersAt(1))).toBeLessThan(0.4);
    const near = cornersAt(9).map((p) => ({ x: p.x + off.x, y: p.y + off.y })) as unknown as Quad;
    expect(farthestApart(samples[8].corners, near)).toBeLessThan(0.4);
    const on = await run(source, [panel({ track })], 11);
    const last = on.samples[on.samples.length - 1];
    const told = cornersAt(11).map((p) => ({ x: p.x + off.x, y: p.y + off.y })) as unknown as Quad;
    expect(farthestApart(last.corners, told)).toBeLessThan(0.15);
    expect(on.samples.some((s) => s.frame === 10)).toBe(false);
  });
});

describe('what cannot be tracked', () => {
  const grey = (value: number): Plane => ({
    width: W,
    height: H,
    stride: W,
    data: new Uint8Array(W * H).fill(value),
  });

  it.each<[string, Quad, Plane[]]>([
    ['surface-flat', rectangle(60, 60, 200, 150), [grey(90), grey(90)]],
    ['surface-outside', rectangle(400, 60, 500, 150), film(2)],
    ['surface-small', rectangle(60, 60, 66, 150), film(2)],
  ])('%s is told of, with what to do', async (reason, base, planes) => {
    const { stopped, samples } = await run(sourceOf(planes), [panel({ base, shapes: [drawn(base)] })], 1);
    expect(samples).toEqual([]);
    expect(stopped).toEqual([expect.objectContaining({ id: 'p', reason, frame: 0 })]);
    expect(stopped[0].message).toMatch(/^"panel": It |There is nothing to hold on to/);
  });

  it('all of it ignored', async () => {
    const shape = [
      [-5, -5],
      [300, -5],
      [300, 220],
      [-5, 220],
    ] as const;
    const source = closedBy(sourceOf(film(2)), [
      { kind: 'ignore', smooth: false, keys: [{ frame: 0, shape }] },
    ]);
    const { stopped } = await run(source, [panel()], 1);
    expect(stopped[0]).toMatchObject({ reason: 'surface-closed' });
  });

  it('lost for good is withdrawn at the end; with "stop" it ends there', async () => {
    const gone = (t: number) => (t >= 3 ? { front: (x: number, y: number) => wall(x, y + 3 * t) } : {});
    const source = sourceOf(film(7, gone));
    const coasted = await run(source, [panel()], 6);
    expect(coasted.stopped).toEqual([expect.objectContaining({ reason: 'not-found-again', since: 3 })]);
    const ended = await run(source, [panel({}, { lowMatch: 'stop' })], 6);
    expect(ended.stopped).toEqual([expect.objectContaining({ reason: 'match-failed', frame: 3 })]);
  });

  it('a start without a sample', async () => {
    await expect(run(sourceOf(film(3)), [panel()], 2, 1)).rejects.toMatchObject({ code: 'no-sample' });
  });
});

it('a sample tells the motion, and of a turned-over one no view of a plane is made', () => {
  const corners = cornersAt(4);
  const track = withSurfaceSamples(EMPTY_SURFACE_TRACK, [
    { frame: 4, corners, confidence: 1, state: 'tracked' },
  ]);
  const m = surfaceMotion(cornersAt(0), track, 4)!;
  expect(farthestApart(moveQuad(m, cornersAt(0)), corners)).toBeLessThan(1e-9);
  expect(surfaceMotion(cornersAt(0), track, 5)).toBeNull();
  expect(isClockwise([...corners].reverse() as unknown as Quad)).toBe(false);
});
