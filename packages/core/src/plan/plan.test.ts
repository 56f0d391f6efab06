import { apply, chain, invert, multiply } from '../geometry/matrix.js';
import { PLAIN_GOAL } from '../testing/goal.js';
import { asSpots, farthest, shakes, trackOf } from '../testing/motions.js';
import { borrowFor } from '../compose/scene.js';
import {
  deliveryInSource,
  framingInSource,
  mostZoom,
  pictureInSource,
  pictureToDelivery,
  planFor,
  type FramingRequest,
  type ShotRequest,
} from './plan.js';
import { tradeOff } from './trade.js';

const FRAMES = 40;
const truth = shakes(FRAMES, 12);
const PLAIN: FramingRequest = { mode: 'fit', zoom: 1, rate: 0.05, shiftX: 0, shiftY: 0, delivery: null };

function request(framing: Partial<FramingRequest> = {}, more: Partial<ShotRequest> = {}): ShotRequest {
  const tracks = [trackOf(truth, 300, 200), trackOf(truth, 900, 500), trackOf(truth, 700, 150)];
  return {
    size: { width: 1280, height: 720 },
    frames: FRAMES,
    pixelAspect: 1,
    fps: 30,
    spots: asSpots(tracks, { names: ['a', 'b', 'c'] }),
    held: '',
    ref: 0,
    from: 0,
    to: FRAMES - 1,
    goal: PLAIN_GOAL,
    framing: { ...PLAIN, ...framing },
    ...more,
  };
}

describe('the plan', () => {
  it('stands still: what is left of exact tracks is nothing, and no frame shows an edge', () => {
    const plan = planFor(request())!;
    expect(plan.measure.before).toBeGreaterThan(5);
    expect(plan.measure.after).toBeLessThan(1e-6);
    expect(plan.edgeFrames).toEqual([]);
    expect(plan.fit.zoom).toBe(Math.max(...plan.needed));
    const back = plan.corrections.map((s, f) => multiply(s, multiply(truth[f], invert(truth[0]))));
    back.forEach((m) => expect(farthest(m, back[0])).toBeLessThan(1e-6));
  });

  it('tells what is left of what is held: a spot that moves otherwise is named and does not count', () => {
    // A fourth spot with the rest, and one on a nearer thing, which moves half as much again.
    const nearer = truth.map((m) => multiply(m, m).map((v, k) => (v + m[k]) / 2) as unknown as typeof m);
    const three = request().spots.map((s) => s.track);
    const tracks = [...three, trackOf(truth, 400, 600), trackOf(nearer, 800, 640)];
    const spots = asSpots(tracks, { names: ['a', 'b', 'c', 'd', 'rail'] });
    const plan = planFor(request({}, { spots }))!;
    expect(plan.odd.map((o) => o.spot)).toEqual(['4']);
    expect(plan.odd[0].sentence).toMatch(/^rail still moves/);
    expect(plan.of.map((s) => s.name)).toEqual(['a', 'b', 'c', 'd', 'rail']);
    expect(plan.motions['']).toBe(plan.motion);
    expect(plan.odd[0].rms).toBeGreaterThan(2);
    expect(plan.measure.after).toBeLessThan(0.1);
    expect(plan.measure.before).toBeGreaterThan(5);
  });

  it('shows an edge at 0.1 % less than the fit zoom, and says on which frames', () => {
    const { fit } = planFor(request())!;
    const less = planFor(request({ zoom: 0.999 }))!;
    expect(less.edgeFrames).toContain(fit.frame);
    const none = planFor(request({ mode: 'none' }))!;
    expect(none.edgeFrames.length).toBeGreaterThan(FRAMES / 2);
    expect(mostZoom(none, 0, FRAMES - 1)).toBe(1);
    expect(none.worst[0]).toBe(fit.frame);
  });

  it('breathes below the fit zoom without an edge, the zoom by hand on top', () => {
    const plan = planFor(request({ mode: 'breathing', rate: 0.3 }))!;
    expect(plan.edgeFrames).toEqual([]);
    expect(mostZoom(plan, 0, FRAMES - 1)).toBeCloseTo(plan.fit.zoom, 9);
    expect(Math.min(...plan.zooms)).toBeLessThan(plan.fit.zoom - 0.005);
    const closer = planFor(request({ mode: 'breathing', rate: 0.3, zoom: 1.1 }))!;
    closer.zooms.forEach((z, f) => expect(z).toBeCloseTo(1.1 * plan.zooms[f], 9));
  });

  it('tells source pixels for each delivered one, and up to where nothing is lost', () => {
    const small = planFor(request({ mode: 'none', delivery: { width: 640, height: 360 } }))!;
    expect(small.losslessZoom).toBeGreaterThan(1.85);
    expect(small.losslessZoom).toBeLessThan(2);
    expect(small.punchIn).toBeCloseTo(small.losslessZoom, 6);
    const at = planFor(
      request({ mode: 'none', zoom: small.losslessZoom, delivery: { width: 640, height: 360 } }),
    )!;
    expect(at.punchIn).toBeCloseTo(1, 9);
  });

  it('has one picture in the frame of the source and in delivered pixels', () => {
    const plan = planFor(request({ shiftX: 12, shiftY: -7, delivery: { width: 1080, height: 1080 } }))!;
    for (const f of [0, 17, 39]) {
      expect(
        farthest(chain(deliveryInSource(plan), pictureToDelivery(plan, f)), pictureInSource(plan, f)),
      ).toBeLessThan(1e-9);
      expect(
        farthest(multiply(framingInSource(plan, f), plan.corrections[f]), pictureInSource(plan, f)),
      ).toBeLessThan(1e-9);
    }
    expect(plan.window).toEqual({ width: 720, height: 720 });
    const middle = apply(framingInSource(plan, 0), 640, 360);
    expect(middle).toEqual({ x: 652, y: 353 });
  });

  it('is sensible for a range of one frame', () => {
    const plan = planFor(request({}, { from: 7, to: 7, ref: 7 }))!;
    expect(plan.fit.zoom).toBeCloseTo(1, 9);
    expect(plan.measure.after).toBe(0);
    expect(plan.edgeFrames).toEqual([]);
  });

  it('is none without a sample, and position alone from one spot though rotation is wanted', () => {
    expect(planFor(request({}, { spots: [] }))).toBeNull();
    const one = planFor(request({}, { spots: asSpots([trackOf(truth, 300, 200)]) }))!;
    one.motion.parts.forEach((p) => expect([p.rotation, p.logScale]).toEqual([0, 0]));
    expect(one.measure.after).toBeLessThan(1e-9);
  });
});

describe('what less would save', () => {
  it('is told against the smoothing with Calm, and against the share of the amounts else', () => {
    const calm = request({}, { goal: { ...PLAIN_GOAL, goal: 'calm' } });
    const plan = planFor(calm)!;
    const bySeconds = tradeOff(plan.motion, calm);
    expect(bySeconds.kind).toBe('smoothing');
    expect(bySeconds.points[0].zoom).toBeCloseTo(1, 9);
    expect(bySeconds.points.find((p) => p.value === 1)!.zoom).toBeCloseTo(plan.fit.zoom, 9);

    const byShare = tradeOff(plan.motion, request());
    expect(byShare.kind).toBe('share');
    const zooms = byShare.points.map((p) => p.zoom);
    expect(zooms[0]).toBeCloseTo(1, 9);
    expect(zooms[zooms.length - 1]).toBeCloseTo(planFor(request())!.fit.zoom, 9);
    zooms.slice(1).forEach((z, i) => expect(z).toBeGreaterThan(zooms[i] - 1e-9));
  });
});

describe('borrowing for a plan', () => {
  it('asks frames of the range alone, and nothing where no edge shows', () => {
    const open = planFor(request({ mode: 'none' }, { from: 5, to: 30 }))!;
    const { donors } = borrowFor(open, open.worst[0], 5, 30);
    expect(donors.length).toBeGreaterThan(0);
    donors.forEach((d) => expect(d.frame).toBeGreaterThanOrEqual(5));
    donors.forEach((d) => expect(d.frame).toBeLessThanOrEqual(30));
    expect(borrowFor(planFor(request())!, 3, 0, FRAMES - 1).donors).toEqual([]);
  });
});
