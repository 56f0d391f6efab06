import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { LurnError, stoppedError } from '@lurn/core';
import { framesOf, type Scene } from '@lurn/core/compose';
import { colourInPlanes } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import type { ClipInfo } from '@lurn/model';
import { Decoder, isRgb } from '../decode.js';
import type { Format } from '../formats/index.js';
import { partOf } from '../part-file.js';
import { codedFor, type Coded } from './coded.js';
import { pictureBytes, withoutAlpha, type SampleLayout } from '../layout.js';
import type { LayerRasters } from '../rasters/layer-rasters.js';
import {
  comparedSize,
  comparePlan,
  borderOf,
  putTogether,
  samplesOf,
  sceneBefore,
  type Comparison,
  type ComparePlan,
} from './compare.js';
import type { ComposeTask } from './compose-thread.js';
import { Composer } from './composer.js';
import { Encoder } from './encoder.js';
import { joinParts } from './join.js';
import { readLentFrames } from './lent-frames.js';
import { Labels } from './labels.js';
import { partName, partsOf, type Part } from './parts.js';
import { WorkFolder } from './work-folder.js';

export interface RenderRequest {
  readonly source: string;
  readonly info: ClipInfo;
  readonly times: Float64Array;
  /** Where the finished file goes. */
  readonly file: string;
  /** First and last frame, both included. */
  readonly from: number;
  readonly to: number;
  /** Size of the delivered picture, upright. */
  readonly delivery: Size;
  /** The scene of a frame, upright, of that size. */
  readonly scene: (frame: number) => Scene;
  /** What layers show. */
  readonly rasters?: Pick<LayerRasters, 'of'>;
  readonly format: Format;
  /** Constant rate factor, of formats that have one. */
  readonly crf: number;
  /** Shows the picture as shot in the same file. */
  readonly compare?: Comparison | null;
  readonly preset?: string;
  /** Where its parts are kept until it is finished, so that it goes on where it was; for a while only when left out. */
  readonly work?: string;
  /** What is rendered, told in any way that differs where the pictures do: parts of another order are not taken. */
  readonly order?: string;
  readonly signal?: AbortSignal;
  /** A part is begun, or lies in its folder. */
  readonly onPart?: (part: Part, state: 'begun' | 'done') => void;
  readonly onProgress?: (done: number, total: number) => void;
}

/**
 * Renders scenes into a file: ffmpeg decodes to planes, threads draw, ffmpeg encodes. The colour planes are never
 * converted. A fixed number of frames is in memory at a time, whatever the length; frames that edges are borrowed from
 * are read first and kept as well. It is encoded in parts of some seconds, which are joined in the end: parts that lie in
 * its folder already are taken as they are, and the file is the same to the bit.
 *
 * @throws LurnError `stopped`, `disk-full`, `encode-failed`, `frame-unreadable`, `no-alpha`; no half file is left.
 */
export async function render(request: RenderRequest): Promise<void> {
  const { file, info, from, to, format } = request;
  const parts = partsOf(info, from, to, format);
  const folder = await WorkFolder.open(
    request.work ?? `${partOf(file)}s`,
    request.source,
    request.order ?? '',
  );
  const { path: work } = folder;
  try {
    await renderParts({ ...request, work }, parts);
    await folder.demandSameSource();
    await joinParts({ ...request, work, parts });
    await folder.remove();
  } finally {
    if (!request.work) await folder.remove();
  }
}

/** Renders those of some parts that are not in the folder yet. */
export async function renderParts(
  request: RenderRequest & { readonly work: string },
  parts: readonly Part[],
): Promise<void> {
  const { work, format } = request;
  const there = new Set(await readdir(work));
  const missing = parts.filter((part) => !there.has(partName(part, format)));
  const frames = (list: readonly Part[]) => list.reduce((n, p) => n + p.to - p.from + 1, 0);
  let done = frames(parts) - frames(missing);
  const total = frames(parts);
  if (done > 0) request.onProgress?.(done, total);
  const coded = codedFor(request.info, request.delivery);
  const plan = request.compare ? comparePlan(request.compare.way, request.info.turns) : null;
  const composer = new Composer();
  try {
    for (const run of runsOf(missing)) {
      const one = { ...request, first: request.from, from: run[0].from, to: run[run.length - 1].to };
      await new RunOfParts(one, run, coded, plan, composer, (n) =>
        request.onProgress?.(done + n, total),
      ).draw();
      done += frames(run);
    }
  } finally {
    await composer.close();
  }
}

/** Parts that follow one another: they are read in one go. */
function runsOf(parts: readonly Part[]): Part[][] {
  const runs: Part[][] = [];
  for (const part of parts) {
    const last = runs[runs.length - 1];
    if (last && last[last.length - 1].index === part.index - 1) last.push(part);
    else runs.push([part]);
  }
  return runs;
}

const NONE: Pick<LayerRasters, 'of'> = { of: () => Promise.resolve(new Map()) };

function* scenesOf({ from, to, scene }: RenderRequest): Generator<Scene> {
  for (let f = from; f <= to; f++) yield scene(f);
}

/** Memory of one frame on its way: read, drawn, written. */
interface Slot {
  readonly source: SharedArrayBuffer;
  readonly output: SharedArrayBuffer;
  /** The picture as shot, and both together, where they are compared. */
  readonly before: SharedArrayBuffer | null;
  readonly both: Uint8Array | null;
  /** Settles when it may be used again. */
  free: Promise<void>;
}

interface RunRequest extends RenderRequest {
  readonly work: string;
  /** The first frame of the whole. */
  readonly first: number;
}

/** Draws the frames of parts that follow one another, and encodes each part by itself. */
class RunOfParts {
  private encoder: Encoder | null = null;
  private part: Part | null = null;
  /** As it is drawn, and as it is read: without alpha. */
  private readonly layout: SampleLayout;
  private readonly read: SampleLayout;
  /** The part before, while the last of it is being encoded. */
  private finishing: Promise<void> = Promise.resolve();
  private decoder: Decoder | null = null;

  constructor(
    private readonly request: RunRequest,
    private readonly parts: readonly Part[],
    private readonly coded: Coded,
    private readonly plan: ComparePlan | null,
    private readonly composer: Composer,
    private readonly onDone: (frames: number) => void,
  ) {
    const { format, info } = request;
    this.layout = format.planes(info);
    this.read = this.layout.alpha ? withoutAlpha(this.layout) : this.layout;
  }

  async draw(): Promise<void> {
    const { source, info, times, from, to, signal } = this.request;
    try {
      const lent = await readLentFrames(source, info, times, scenesOf(this.request), this.read, signal);
      this.decoder = await Decoder.open(source, info, { from, to, times }, this.read, signal);
      await this.drawAll(lent, this.decoder);
      await this.finishing;
      await this.finish();
    } catch (error) {
      await this.encoder?.discard();
      await this.finishing.catch(() => undefined);
      throw error;
    } finally {
      this.decoder?.close();
    }
  }

  /** The encoder of a frame: with the first frame of a part a new one begins, while the one before ends. */
  private async encoderFor(frame: number): Promise<Encoder> {
    const part = this.parts.find((p) => p.from === frame);
    if (!part) return this.encoder!;
    const { info, times, format, crf, work, signal } = this.request;
    await this.finishing;
    this.finishing = this.finish();
    this.finishing.catch(() => undefined);
    const { outputSize } = this.coded;
    const [width, height] = this.plan ? comparedSize(outputSize, this.plan) : outputSize;
    const settings = { format, width, height, crf, preset: this.request.preset ?? 'medium' };
    const file = join(work, partName(part, format));
    this.encoder = await Encoder.open(file, info, times, part, settings, signal);
    this.part = part;
    this.request.onPart?.(part, 'begun');
    return this.encoder;
  }

  private labels: Labels | null = null;

  /** Writes which is which into both, where that is asked for. */
  private label(both: Uint8Array, time: number): void {
    const { plan, coded, layout, request } = this;
    const { compare, info } = request;
    if (!plan || !compare?.labels) return;
    const size = comparedSize(coded.outputSize, plan);
    const above = compare.way === 'above';
    const full = codeOf(info).range === 'pc';
    this.labels ??= new Labels(coded.outputSize, size, { ...plan, above }, info.turns, layout, full);
    const border = borderOf(coded.outputSize[plan.along === 'x' ? 0 : 1], plan, time);
    this.labels.write(samplesOf(both, layout), size, border);
  }

  /** Ends the part that is being encoded. */
  private async finish(): Promise<void> {
    const { encoder, part } = this;
    if (!encoder || !part) return;
    await encoder.finish();
    this.request.onPart?.(part, 'done');
  }

  private slots(frameSize: number): Slot[] {
    const { plan, composer, layout } = this;
    const bytes = pictureBytes(layout, ...this.coded.outputSize);
    return Array.from({ length: composer.size + 2 }, (): Slot => ({
      source: new SharedArrayBuffer(frameSize),
      output: new SharedArrayBuffer(bytes),
      before: plan && new SharedArrayBuffer(bytes),
      both: plan && new Uint8Array(plan.grows ? 2 * bytes : bytes),
      free: Promise.resolve(),
    }));
  }

  private async drawAll(lent: ReadonlyMap<number, SharedArrayBuffer>, decoder: Decoder): Promise<void> {
    const { coded, plan, composer, request, layout } = this;
    const { info, times, from, to, scene, rasters = NONE, signal, first } = request;
    const slots = this.slots(decoder.frameSize);
    let written: Promise<void> = Promise.resolve();
    for (let frame = from; frame <= to; frame++) {
      const slot = slots[frame % slots.length];
      await slot.free;
      if (signal?.aborted) throw stoppedError('Rendering');
      if (!(await decoder.read(new Uint8Array(slot.source)))) {
        if (signal?.aborted) throw stoppedError('Rendering');
        throw new LurnError(
          'frame-unreadable',
          `Frame ${frame} of the original could not be decoded. ${decoder.complaint.trim().split('\n')[0]}`,
        );
      }
      const wanted = scene(frame);
      const taskOf = async (one: Scene, output: SharedArrayBuffer): Promise<ComposeTask> => {
        const drawn = coded.scene(one);
        const needed = framesOf(drawn).map((f) => [f, lent.get(f)!] as const);
        return {
          scene: drawn,
          pictures: new Map([...needed, [frame, slot.source]]),
          ...{ sourceSize: coded.sourceSize, output, outputSize: coded.outputSize, layout },
          siting: info.colour.siting,
          fill: colourInPlanes(drawn.base.edges.colour, codeOf(info), info.height, layout.depth),
          code: { ...codeOf(info), height: info.height },
          rasters: await rasters.of(drawn),
        };
      };
      const { before: shot, both } = slot;
      // What layers show is read in the order of the frames.
      const tasks = [await taskOf(wanted, slot.output)];
      if (shot) tasks.push(await taskOf(sceneBefore(wanted, info), shot));
      const finished = Promise.all(tasks.map((task) => composer.draw(task)));
      const before = written;
      written = slot.free = (async () => {
        await Promise.all([before, finished]);
        const encoder = await this.encoderFor(frame);
        const after = new Uint8Array(slot.output);
        if (plan && shot && both) {
          const pair = [new Uint8Array(shot), after] as const;
          const time = times[frame] - times[first];
          putTogether(pair, coded.outputSize, layout, both, plan, time);
          this.label(both, time);
          await encoder.write(both);
        } else await encoder.write(after);
        this.onDone(frame - from + 1);
      })();
      written.catch(() => undefined);
    }
    await written;
  }
}

/** How the planes that are drawn code their colour. */
function codeOf(info: ClipInfo): ClipInfo['colour'] {
  return isRgb(info) ? { ...info.colour, range: 'tv', space: 'bt709' } : info.colour;
}
