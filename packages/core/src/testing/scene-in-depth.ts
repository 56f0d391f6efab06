import { gathered, type Growing, type SceneTracks } from '../scene/scene-tracks.js';
import { normal, randomNumbers } from './footage.js';

/** A point of a scene that stands still: x to the right, y down, z away from the first camera. */
export interface ScenePoint3 {
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

/** Where a camera is, and how it is turned: to the right, down, and clockwise on the screen, in radians. */
export interface Pose {
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly pan: number;
  readonly tilt: number;
  readonly roll: number;
}

/** Where a camera of a focal length sees a point; null behind it. */
export function seenFrom(
  p: ScenePoint3,
  pose: Pose,
  focal: number,
  { width, height }: { readonly width: number; readonly height: number },
): { x: number; y: number } | null {
  const [dx, dy, dz] = [p.x - pose.x, p.y - pose.y, p.z - pose.z];
  const [cp, sp, ct, st] = [Math.cos(pose.pan), Math.sin(pose.pan), Math.cos(pose.tilt), Math.sin(pose.tilt)];
  const [u, w] = [cp * dx - sp * dz, sp * dx + cp * dz];
  const [v, z] = [ct * dy - st * w, st * dy + ct * w];
  if (z < 0.1) return null;
  const [px, py] = [(focal * u) / z, (focal * v) / z];
  const [cr, sr] = [Math.cos(pose.roll), Math.sin(pose.roll)];
  return { x: width / 2 + cr * px - sr * py, y: height / 2 + sr * px + cr * py };
}

/**
 * Tracks of points, each as long as it is in the picture.
 *
 * @param moves  where a point that goes by itself is on a frame
 * @returns the tracks, and of each the number of its point
 */
export function tracksInDepth(
  points: readonly ScenePoint3[],
  poses: readonly Pose[],
  focal: number,
  size: { readonly width: number; readonly height: number },
  { noise = 0.08, seed = 1, moves = (p: ScenePoint3, _i: number, _frame: number) => p } = {},
): { tracks: SceneTracks; of: number[] } {
  const random = randomNumbers(seed);
  const list: Growing[] = [];
  const of: number[] = [];
  points.forEach((point, i) => {
    let [x, y]: number[][] = [[], []];
    const end = (f: number) => {
      if (x.length > 4) {
        list.push({ start: f - x.length, x, y, confidence: x.map(() => 0.9) });
        of.push(i);
      }
      [x, y] = [[], []];
    };
    poses.forEach((pose, f) => {
      const p = seenFrom(moves(point, i, f), pose, focal, size);
      if (!p || p.x < 4 || p.y < 4 || p.x > size.width - 4 || p.y > size.height - 4) return end(f);
      x.push(p.x + noise * normal(random));
      y.push(p.y + noise * normal(random));
    });
    end(poses.length);
  });
  return { tracks: gathered(list, poses.length, [], [1, 1]), of };
}
