import { FrameReader, PictureCanvas, PictureDrawer, type ClipFile } from '@lurn/media';
import { kernelsMissing } from '@lurn/core';
import type { Matrix3, matrixWarp, Warp, MeshWarp } from '@lurn/core/geometry';
import type { LightCode } from '@lurn/core/picture';
import { defaultSettings, EMPTY_TRACK, trackSpots, withSamples } from '@lurn/core/track';
import type { EdgeMode } from '@lurn/core/warp';
import { packed, unpacked } from './packed.js';

/** Runs in the browser under test: what the page's own workers use, made callable. */

export interface FrameSummary {
  /** FNV-1a of the upright luma plane. */
  readonly hash: number;
  /** Mean luma of 16 x 9 blocks. */
  readonly blocks: readonly number[];
}

export function summarise(plane: {
  width: number;
  height: number;
  stride: number;
  data: Uint8Array;
}): FrameSummary {
  const { width, height, stride, data } = plane;
  let hash = 0x811c9dc5;
  const sums = new Float64Array(144);
  const counts = new Float64Array(144);
  for (let y = 0; y < height; y++) {
    const row = Math.floor((y * 9) / height) * 16;
    for (let x = 0; x < width; x++) {
      const v = data[y * stride + x];
      hash = Math.imul(hash ^ v, 0x01000193);
      const b = row + Math.floor((x * 16) / width);
      sums[b] += v;
      counts[b]++;
    }
  }
  return { hash: hash >>> 0, blocks: [...sums].map((s, i) => s / counts[i]) };
}

/** A warp as it is sent to the page. */
export type SentWarp =
  | ReturnType<typeof matrixWarp>
  | (Omit<MeshWarp, 'to'> & { readonly to: readonly number[] });

function received(warp: SentWarp): Warp {
  return warp.kind === 'mesh' ? { ...warp, to: Float64Array.from(warp.to) } : warp;
}

/** Planes of a picture of 4:2:0, {@link packed}. */
export interface SentPlanes {
  readonly y: string;
  readonly u: string;
  readonly v: string;
}

function picture420({ y, u, v }: SentPlanes, w: number, h: number) {
  const plane = (text: string, width: number, height: number) => ({
    ...{ width, height, stride: width, data: unpacked(text) },
  });
  return {
    frame: 0,
    y: plane(y, w, h),
    u: plane(u, w / 2, h / 2),
    v: plane(v, w / 2, h / 2),
    subsampling: { x: 2, y: 2 } as const,
    bytes: 0,
  };
}

const harness = {
  /** Why the kernels do not run in this page; null where they do. */
  kernelsMissing: () => kernelsMissing(),

  /** Every frame of a clip, in the order given. */
  async frames(
    file: Omit<ClipFile, 'times'> & { times: number[] },
    order: number[],
  ): Promise<FrameSummary[]> {
    const reader = await FrameReader.open(
      { ...file, times: Float64Array.from(file.times) },
      { cacheBytes: 20e6, readAhead: 3 },
    );
    const out: FrameSummary[] = [];
    for (const frame of order) out.push(summarise(await reader.luma(frame)));
    reader.close();
    return out;
  },

  /** Milliseconds that stepping to a cached neighbour takes, read and drawn. */
  async stepTimes(file: Omit<ClipFile, 'times'> & { times: number[] }): Promise<number[]> {
    const reader = await FrameReader.open(
      { ...file, times: Float64Array.from(file.times) },
      { cacheBytes: 400e6, readAhead: 6 },
    );
    for (let i = 0; i < 20; i++) await reader.get(i);
    const times: number[] = [];
    for (let i = 18; i > 2; i--) {
      const start = performance.now();
      await reader.get(i);
      times.push(performance.now() - start);
    }
    reader.close();
    return times;
  },

  /** Seconds that following spots through a whole clip takes, decoding included. */
  async trackTime(
    file: Omit<ClipFile, 'times'> & { times: number[] },
    places: [number, number][],
  ): Promise<number> {
    const start = performance.now();
    const reader = await FrameReader.open(
      { ...file, times: Float64Array.from(file.times) },
      { cacheBytes: 250e6, readAhead: 2 },
    );
    const spots = places.map(([x, y], i) => ({
      id: String(i),
      name: String(i),
      mover: '',
      joins: [],
      settings: defaultSettings(file.height),
      track: withSamples(EMPTY_TRACK, [{ frame: 0, x, y, confidence: 1, state: 'pinned' as const }]),
    }));
    let samples = 0;
    for await (const step of trackSpots(reader, { spots, from: 0, to: file.times.length - 1 }))
      samples += step.samples.length;
    reader.close();
    if (samples !== (file.times.length - 1) * places.length) throw new Error(`Only ${samples} samples.`);
    return (performance.now() - start) / 1000;
  },

  /** Luma and chroma as the preview's shader warps made-up pictures of the given planes: the frame, then donors. */
  warp(
    pictures: (SentPlanes & { toLuma: SentWarp })[],
    size: [number, number],
    output: [number, number],
    mode: EdgeMode = 'colour',
  ): string {
    const [w, h] = size;
    const drawer = new PictureDrawer(new OffscreenCanvas(...output), {
      range: 'tv',
      space: 'bt709',
      siting: 'left',
    });
    const sheets = pictures.map(({ toLuma, ...planes }, frame) => ({
      picture: { ...picture420(planes, w, h), frame },
      toLuma: received(toLuma),
      offset: [0, 0, 0] as const,
    }));
    drawer.clear();
    const identity: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];
    drawer.drawPane(
      sheets[0].picture,
      {
        x: 0,
        y: 0,
        width: output[0],
        height: output[1],
        toFrame: identity,
        frameSize: output,
        toLuma: sheets[0].toLuma,
        quality: 'cubic',
        edges: { mode, colour: [16, 128, 128], donors: sheets.slice(1) },
      },
      'over',
      true,
    );
    return packed(drawer.read(0, 0, ...output));
  },

  /** Red, green, blue and alpha as a screen shows a picture, drafted or exact, by a graphics card or without. */
  shown(
    planes: SentPlanes,
    toLuma: SentWarp,
    [w, h]: [number, number],
    mode: EdgeMode,
    draft: boolean,
    light: LightCode & { space: string } = { space: 'bt709' },
    card = false,
  ): string {
    const canvas = new OffscreenCanvas(8, 8);
    const screen = new PictureCanvas(canvas, { range: 'tv', siting: 'left', ...light }, 0.2, card);
    screen.resize(w, h);
    const picture = picture420(planes, w, h);
    const identity: Matrix3 = [1, 0, 0, 0, 1, 0, 0, 0, 1];
    screen.show((drawer) =>
      drawer.drawPane(picture, {
        ...{ x: 0, y: 0, width: w, height: h, toFrame: identity, frameSize: [w, h] },
        toLuma: received(toLuma),
        quality: draft ? 'linear' : 'cubic',
        edges: { mode, colour: [16, 128, 128], donors: [] },
      }),
    );
    const copy = new OffscreenCanvas(w, h).getContext('2d')!;
    copy.drawImage(canvas, 0, 0);
    return packed(copy.getImageData(0, 0, w, h).data);
  },
};

export type Harness = typeof harness;
(globalThis as unknown as { harness: Harness }).harness = harness;
