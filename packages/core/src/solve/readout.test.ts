import {
  dataExportById,
  dataOfPlan,
  handOver,
  motionFrame,
  readData,
  withMeshes,
} from '../formats/data/index.js';
import { writeMotion } from '../formats/motion-file.js';
import { apply, multiply, type Matrix3, type Point } from '../geometry/matrix.js';
import { composeSimilarity, type SimilarityParts } from '../geometry/similarity.js';
import { evaluatorOf } from '../geometry/warp.js';
import { heldMotion } from '../plan/held-motion.js';
import { planFor, type ShotRequest } from '../plan/plan.js';
import { asShotFrom, deliveredFrom, steadiedPlace } from '../plan/plan-to-source.js';
import { randomNumbers } from '../numbers.js';
import { gathered, type Growing } from '../scene/scene-tracks.js';
import { plainRequest } from '../testing/goal.js';
import { normal } from '../testing/footage.js';
import { gridOfPlaces } from '../testing/scene.js';
import { analyse, rowsOf } from './analysed.js';
import { Rows } from './readout.js';

const SIZE = { width: 1280, height: 720, pixelAspect: 1 };
const FRAMES = 60;
const MIDDLE = { x: 640, y: 360 };

/** A hand at any time, in frames. */
const hand = (t: number): SimilarityParts => ({
  x: 9 * Math.sin(0.9 * t) + 5 * Math.sin(0.37 * t + 1),
  y: 8 * Math.sin(0.7 * t + 2) + 4 * Math.cos(0.29 * t),
  rotation: 0.006 * Math.sin(0.5 * t),
  logScale: 0.003 * Math.sin(0.4 * t),
});
const cameraAt = (t: number) => composeSimilarity(hand(t), MIDDLE);

/** Where a place of the scene is seen on a frame whose rows are read one after the other. */
function seenAt(place: Point, frame: number, share: number, sideways: boolean): Point {
  let p = apply(cameraAt(frame), place.x, place.y);
  for (let k = 0; k < 12; k++)
    p = apply(cameraAt(frame + share * (sideways ? p.x / 1280 - 0.5 : p.y / 720 - 0.5)), place.x, place.y);
  return p;
}

type Made = ReturnType<typeof makeScene>;
const made = new Map<string, Made>();

function sceneOf(share: number, noise = 0.05, sideways = false): Made {
  const key = `${share} ${noise} ${sideways}`;
  const known = made.get(key) ?? makeScene(share, noise, sideways);
  made.set(key, known);
  return known;
}

function makeScene(share: number, noise: number, sideways: boolean) {
  const random = randomNumbers(4);
  const tracks = gridOfPlaces([-30, -30, 1310, 750], 14, 9).map((place): Growing => {
    const at = Array.from({ length: FRAMES }, (_, f) => seenAt(place, f, share, sideways));
    const spoilt = (v: number) => v + noise * normal(random);
    return {
      start: 0,
      x: at.map((p) => spoilt(p.x)),
      y: at.map((p) => spoilt(p.y)),
      confidence: at.map(() => 0.9),
    };
  });
  return analyse(gathered(tracks, FRAMES, [], [1, 1]), { ...SIZE, sideways });
}

/** How far corrected places are off, over corners and frames, against those of frame 0 taken at once. */
function offAtRowEnds(request: ShotRequest, scene: Made, share: number, sideways = false): number {
  const plan = planFor(request, scene)!;
  let [sum, n] = [0, 0];
  for (const x of [40, 640, 1240]) {
    for (const y of [30, 360, 690]) {
      const rest = apply(cameraAt(0), x, y);
      for (let f = 3; f < FRAMES - 3; f++) {
        const p = steadiedPlace(plan, f, seenAt({ x, y }, f, share, sideways));
        sum += (p.x - rest.x) ** 2 + (p.y - rest.y) ** 2;
        n++;
      }
    }
  }
  return Math.sqrt(sum / n);
}

const whole = plainRequest(SIZE, FRAMES);
const request: ShotRequest = { ...whole, framing: { ...whole.framing, mode: 'none' } };

describe('a camera that reads row by row', () => {
  it.each([
    [0.75, false],
    [-0.4, false],
    [0.6, true],
  ])('is found out: share %f, sideways %s', (share, sideways) => {
    const { readout } = sceneOf(share, 0.05, sideways);
    expect(readout!.share / share).toBeGreaterThan(0.96);
    expect(readout!.share / share).toBeLessThan(1.04);
    expect(readout!.after).toBeLessThan(0.12);
    expect(readout!.before).toBeGreaterThan(5 * readout!.after);
  });

  it('is none where pictures are taken at once, however noisy', () => {
    expect(sceneOf(0, 0.05).readout).toBeNull();
    expect(sceneOf(0, 0.6).readout).toBeNull();
  });

  it('is put straight: what is left at the rows’ ends falls to less than a fifth', () => {
    for (const sideways of [false, true]) {
      const scene = sceneOf(0.75, 0.05, sideways);
      const without = offAtRowEnds(request, scene, 0.75, sideways);
      const straight = offAtRowEnds({ ...request, rowByRow: true }, scene, 0.75, sideways);
      expect(without).toBeGreaterThan(1);
      expect(straight).toBeLessThan(without / 5);
    }
  });

  it('bends the picture the way back: delivered pixels come from where they are seen', () => {
    const scene = sceneOf(0.75);
    const plan = planFor({ ...request, rowByRow: true }, scene)!;
    const place = evaluatorOf(deliveredFrom(plan, 20));
    for (const [x, y] of [
      [100, 60],
      [640, 360],
      [1200, 700],
    ]) {
      const from = place.at(x, y);
      const back = steadiedPlace(plan, 20, from);
      expect(Math.hypot(back.x - x, back.y - y)).toBeLessThan(0.05);
    }
    // Without it a matrix does.
    const plain = planFor(request, scene)!;
    expect(plain.rows).toBeNull();
    expect(deliveredFrom(plain, 20).kind).toBe('matrix');
    expect(asShotFrom(plain, 20, cameraAt(0), SIZE).kind).toBe('matrix');
  });

  it('is told in MOTION.json, table and JSON so that the picture can be made from the file alone', () => {
    const plan = planFor({ ...request, rowByRow: true }, sceneOf(0.75))!;
    const clip = { ...SIZE, frames: FRAMES, fps: 25 };
    const solved = { held: 'ridge', ref: 0, cuts: [] };
    const times = Float64Array.from({ length: FRAMES }, (_, f) => f / 25);
    const data = withMeshes(dataOfPlan(plan, { from: 18, to: 21 }, solved, times, clip), plan);
    const files = [
      writeMotion(
        clip,
        0,
        1,
        [18, 19, 20, 21].map((f) => motionFrame(plan, f)),
      ),
      ...['json', 'csv'].map((id) => String([...handOver(data, dataExportById(id))][0].content)),
    ];
    for (const text of files) {
      const frame = readData(text, clip).things[0].frames.find((f) => f.frame === 20)!;
      const { columns, rows, to } = frame.mesh!;
      const meshed = ({ x, y }: Point) => {
        const [u, v] = [(x / SIZE.width) * columns, (y / SIZE.height) * rows];
        const [i, j] = [Math.min(columns - 1, Math.floor(u)), Math.min(rows - 1, Math.floor(v))];
        const node = (k: number, l: number, c: number) => to[2 * (l * (columns + 1) + k) + c];
        const mix = (c: number) =>
          (1 - v + j) * ((1 - u + i) * node(i, j, c) + (u - i) * node(i + 1, j, c)) +
          (v - j) * ((1 - u + i) * node(i, j + 1, c) + (u - i) * node(i + 1, j + 1, c));
        return { x: mix(0), y: mix(1) };
      };
      const framing = frame.values.slice(18) as unknown as Matrix3;
      const place = evaluatorOf(deliveredFrom(plan, 20));
      let [worst, byMatrix] = [0, 0];
      for (let y = 90; y < 640; y += 13)
        for (let x = 90; x < 1200; x += 29) {
          const from = place.at(x, y);
          const steadied = meshed(from);
          const back = apply(framing, steadied.x, steadied.y);
          worst = Math.max(worst, Math.hypot(back.x - x, back.y - y));
          const alone = apply(multiply(framing, plan.corrections[20]), from.x, from.y);
          byMatrix = Math.max(byMatrix, Math.hypot(alone.x - x, alone.y - y));
        }
      expect(worst).toBeLessThan(0.05);
      // The correction alone would not do.
      expect(byMatrix).toBeGreaterThan(0.5);
    }
    // Where a matrix tells all, no file has a mesh.
    const still = planFor(request, sceneOf(0.75))!;
    const plain = withMeshes(dataOfPlan(still, { from: 20, to: 20 }, solved, times, clip), still);
    expect(plain.things[0].frames[0].mesh).toBeUndefined();
  });

  it('needs a zoom that hides what is bent, too', () => {
    const scene = sceneOf(0.75);
    const fit = { ...request, framing: { ...request.framing, mode: 'fit' as const } };
    const plan = planFor({ ...fit, rowByRow: true }, scene)!;
    expect(plan.edgeFrames).toEqual([]);
    const size = { width: 1280, height: 720 };
    for (let f = 0; f < FRAMES; f++) {
      const place = evaluatorOf(deliveredFrom(plan, f));
      for (const [x, y] of [
        [0, 0],
        [640, 0],
        [1280, 0],
        [0, 360],
        [1280, 360],
        [0, 720],
        [640, 720],
        [1280, 720],
      ]) {
        const p = place.at(x, y);
        expect(p.x > -0.1 && p.y > -0.1 && p.x < size.width + 0.1 && p.y < size.height + 0.1).toBe(true);
      }
    }
  });

  it('is the same there and back', () => {
    const scene = sceneOf(0.75);
    const rows = rowsOf(scene)!;
    expect(rows).toBe(rowsOf(scene));
    for (const at of [
      { x: 10, y: 20 },
      { x: 900, y: 700 },
    ]) {
      const back = rows.straight(31, rows.asShot(31, at));
      expect(Math.hypot(back.x - at.x, back.y - at.y)).toBeLessThan(1e-3);
    }
    const still = new Rows({ ...rows.facts, share: 0 });
    expect(still.asShot(5, { x: 3, y: 4 })).toEqual({
      x: expect.closeTo(3) as number,
      y: expect.closeTo(4) as number,
    });
  });

  it('is left as it is where nobody asks, and where nothing is known of it', () => {
    const scene = sceneOf(0);
    expect(heldMotion({ frames: FRAMES, ref: 0, spots: [], rowByRow: true }, scene, null)!.rows).toBeNull();
    expect(heldMotion({ frames: FRAMES, ref: 0, spots: [] }, sceneOf(0.75), null)!.rows).toBeNull();
  });
});
