import {
  compose,
  filmOf,
  planeOver,
  toWire,
  type ChromaSiting,
  type ComposeLook,
  type PicturePlanes,
  type Raster,
  type Scene,
  type WireError,
} from '@lurn/core';

/** One scene to be drawn: everything in coded (not turned) coordinates, pictures in shared memory. */
export interface ComposeTask {
  readonly scene: Scene;
  /** Planes of the frames that the scene is made of. */
  readonly pictures: ReadonlyMap<number, SharedArrayBuffer>;
  readonly sourceSize: readonly [number, number];
  /** Luma, chroma, and with alpha its plane. */
  readonly output: SharedArrayBuffer;
  readonly outputSize: readonly [number, number];
  readonly alpha: boolean;
  readonly siting: ChromaSiting;
  /** What lies outside the picture, as luma and chroma. */
  readonly fill: readonly [number, number, number];
  /** How the planes code colours. */
  readonly code: NonNullable<ComposeLook['code']>;
  /** The rasters of the scene's layers, in shared memory. */
  readonly rasters: ReadonlyMap<string, Raster>;
}

/** Rasters that came with earlier tasks: what was worked out of them is kept with them. */
const known = new Map<string, Raster>();

/** A thread of the composer: draws one scene a task. @returns what went wrong, if anything did */
export default function composeTask(task: ComposeTask): WireError | null {
  try {
    const { scene, pictures, sourceSize, outputSize, alpha, siting, fill, code } = task;
    // A film's frames come one after the other: none is kept.
    for (const key of known.keys()) if (filmOf(key) && !task.rasters.has(key)) known.delete(key);
    for (const [key, raster] of task.rasters) if (!known.has(key)) known.set(key, raster);
    const planes = (frame: number) => planesOf(pictures.get(frame)!, sourceSize, false);
    compose(scene, planes, planesOf(task.output, outputSize, alpha), {
      ...{ siting, fill, code },
      rasters: (key) => known.get(key) ?? null,
    });
    return null;
  } catch (error) {
    return toWire(error);
  }
}

function planesOf(
  memory: SharedArrayBuffer,
  [w, h]: readonly [number, number],
  alpha: boolean,
): PicturePlanes {
  const bytes = new Uint8Array(memory);
  const [cw, ch] = [(w + 1) >> 1, (h + 1) >> 1];
  const at = [w * h, w * h + cw * ch, w * h + 2 * cw * ch];
  return {
    y: planeOver(bytes, w, h),
    u: planeOver(bytes.subarray(at[0]), cw, ch),
    v: planeOver(bytes.subarray(at[1]), cw, ch),
    subsampling: { x: 2, y: 2 },
    ...(alpha && { alpha: planeOver(bytes.subarray(at[2]), w, h) }),
  };
}
