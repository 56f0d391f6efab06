import { colourInPlanes, framesOf, LurnError, stoppedError, type Scene, type Size } from '@lurn/core';
import type { ClipInfo } from '@lurn/model';
import { Decoder, isRgb, planarSize } from '../decode.js';
import type { Format } from '../formats/index.js';
import { codedFor, type Coded } from './coded.js';
import type { LayerRasters } from '../rasters/layer-rasters.js';
import {
  comparedSize,
  comparePlan,
  putTogether,
  sceneBefore,
  type Compare,
  type ComparePlan,
} from './compare.js';
import type { ComposeTask } from './compose-thread.js';
import { Composer } from './composer.js';
import { Encoder } from './encoder.js';
import { readLentFrames } from './lent-frames.js';

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
  readonly compare?: Compare | null;
  readonly preset?: string;
  readonly signal?: AbortSignal;
  readonly onProgress?: (done: number, total: number) => void;
}

/**
 * Renders scenes into a file: ffmpeg decodes to planes, threads draw, ffmpeg encodes. The colour planes are never
 * converted. A fixed number of frames is in memory at a time, whatever the length; frames that edges are borrowed from
 * are read first and kept as well.
 *
 * @throws LurnError `stopped`, `disk-full`, `encode-failed`, `frame-unreadable`, `no-alpha`; no half file is left.
 */
export async function render(request: RenderRequest): Promise<void> {
  const { source, info, times, file, from, to, format, signal } = request;
  const coded = codedFor(info, request.delivery);
  const plan = request.compare ? comparePlan(request.compare, info.turns) : null;
  const [width, height] = plan ? comparedSize(coded.outputSize, plan) : coded.outputSize;
  const composer = new Composer();
  let decoder: Decoder | null = null;
  let encoder: Encoder | null = null;
  try {
    const lent = await readLentFrames(source, info, scenesOf(request), signal);
    decoder = await Decoder.open(source, info, { from, to }, 'planes', signal);
    const settings = { format, width, height, crf: request.crf, preset: request.preset ?? 'medium' };
    encoder = await Encoder.open(file, source, info, times, { from, to }, settings, signal);
    await drawAll(request, coded, plan, lent, decoder, composer, encoder);
    await encoder.finish();
  } catch (error) {
    await encoder?.discard();
    throw error;
  } finally {
    decoder?.close();
    await composer.close();
  }
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

async function drawAll(
  { info, times, from, to, format, scene, rasters = NONE, signal, onProgress }: RenderRequest,
  coded: Coded,
  plan: ComparePlan | null,
  lent: ReadonlyMap<number, SharedArrayBuffer>,
  decoder: Decoder,
  composer: Composer,
  encoder: Encoder,
): Promise<void> {
  const [width, height] = coded.outputSize;
  const outputBytes = planarSize(width, height) + (format.alpha ? width * height : 0);
  const slots = Array.from({ length: composer.size + 2 }, (): Slot => ({
    source: new SharedArrayBuffer(decoder.frameSize),
    output: new SharedArrayBuffer(outputBytes),
    before: plan && new SharedArrayBuffer(outputBytes),
    both: plan && new Uint8Array(plan.grows ? 2 * outputBytes : outputBytes),
    free: Promise.resolve(),
  }));
  const total = to - from + 1;
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
        ...{ sourceSize: coded.sourceSize, output, outputSize: coded.outputSize, alpha: format.alpha },
        siting: info.colour.siting,
        fill: colourInPlanes(drawn.base.edges.colour, codeOf(info), info.height),
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
    const done = frame - from + 1;
    written = slot.free = (async () => {
      await Promise.all([before, finished]);
      const after = new Uint8Array(slot.output);
      if (plan && shot && both) {
        putTogether(new Uint8Array(shot), after, coded.outputSize, both, plan, times[frame] - times[from]);
        await encoder.write(both);
      } else await encoder.write(after);
      onProgress?.(done, total);
    })();
    written.catch(() => undefined);
  }
  await written;
}

/** How the planes that are drawn code their colour. */
function codeOf(info: ClipInfo): ClipInfo['colour'] {
  return isRgb(info) ? { ...info.colour, range: 'tv', space: 'bt709' } : info.colour;
}
