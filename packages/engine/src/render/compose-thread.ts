import {
  compose,
  deepPlaneOver,
  filmOf,
  planeOver,
  toWire,
  type ChromaSiting,
  type ComposeLook,
  type PicturePlanes,
  type Raster,
  type Scene,
  type WireError,
} from '@lurn/core/drawing';
import { planeSizes, type SampleLayout } from '../layout.js';

/** One scene to be drawn: everything in coded (not turned) coordinates, pictures in shared memory. */
export interface ComposeTask {
  readonly scene: Scene;
  /** Planes of the frames that the scene is made of. */
  readonly pictures: ReadonlyMap<number, SharedArrayBuffer>;
  readonly sourceSize: readonly [number, number];
  /** Luma, chroma, and with alpha its plane. */
  readonly output: SharedArrayBuffer;
  readonly outputSize: readonly [number, number];
  /** Of the output; pictures lie so, too, but have no alpha. */
  readonly layout: SampleLayout;
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
    const { scene, pictures, sourceSize, outputSize, layout, siting, fill, code } = task;
    // A film's frames come one after the other: none is kept.
    for (const key of known.keys()) if (filmOf(key) && !task.rasters.has(key)) known.delete(key);
    for (const [key, raster] of task.rasters) if (!known.has(key)) known.set(key, raster);
    const planes = (frame: number) => planesOf(pictures.get(frame)!, sourceSize, { ...layout, alpha: false });
    compose(scene, planes, planesOf(task.output, outputSize, layout), {
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
  layout: SampleLayout,
): PicturePlanes {
  const { depth, subsampling } = layout;
  const samples = depth > 8 ? new Uint16Array(memory) : new Uint8Array(memory);
  let from = 0;
  const [y, u, v, alpha] = planeSizes(layout, w, h).map(([pw, ph]) => {
    const own = samples.subarray(from, (from += pw * ph));
    return own instanceof Uint16Array ? deepPlaneOver(own, pw, ph, depth) : planeOver(own, pw, ph);
  });
  return { y, u, v, subsampling, ...(layout.alpha && { alpha }) };
}
