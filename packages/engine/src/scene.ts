import { Worker } from 'node:worker_threads';
import { fromWire, LurnError, type WireError } from '@lurn/core';
import type { Plane } from '@lurn/core/picture';
import { nothingToHold } from '@lurn/core/plan';
import type { AnalysedScene } from '@lurn/core/solve';
import type { ClipInfo } from '@lurn/model';
import { indexClip, type IndexedClip } from './frame-index.js';
import { threadFile } from './threads.js';

/** Samples of luma that the whole picture is analysed on, at the most. */
export const SCENE_SAMPLES = 960 * 540;

/** Pictures that wait to be followed take so many bytes at the most. */
const MOST_WAITING = 88 * 2 ** 20;
/** ... and so many where nobody waits for reading alone. */
const FEW_WAITING = 8 * 2 ** 20;
/** So many are on their way to the thread and back. */
const ON_THEIR_WAY = 3;

/** A picture for the thread of a {@link SceneReader}; its memory goes along, and comes back. */
export interface ScenePlane {
  readonly memory: ArrayBuffer;
  readonly width: number;
  readonly height: number;
}

/** Asks it for all that it found in a clip. */
export interface SceneRequest {
  readonly finish: Pick<ClipInfo, 'width' | 'height' | 'pixelAspect' | 'frames' | 'turns'>;
}

interface SceneAnswer {
  readonly spare?: ArrayBuffer | null;
  readonly scene?: AnalysedScene | null;
  readonly error?: WireError;
}

/** A thread that waits for the next clip: what it has compiled by then makes it several times as fast at first. */
let idle: Worker | null = null;

function takeThread(): Worker {
  const worker = idle ?? new Worker(threadFile(import.meta.url, './scene-thread-entry'));
  idle = null;
  worker.removeAllListeners().ref();
  return worker;
}

/** Puts a thread that is done by for the next clip. It does not keep the program from ending. */
function layBy(worker: Worker): void {
  worker.removeAllListeners();
  if (idle) {
    void worker.terminate();
    return;
  }
  const gone = () => {
    if (idle === worker) idle = null;
  };
  worker.on('exit', gone).on('error', gone).unref();
  idle = worker;
}

/**
 * Follows the whole picture of a clip that is being read, in a thread of its own. Reading comes first, since nothing can
 * be done with a clip before: pictures wait, up to a bound, and are followed when all are there or no more can wait.
 */
export class SceneReader {
  private worker: Worker | null = takeThread();
  private readonly spares: ArrayBuffer[] = [];
  private readonly waiting: ScenePlane[] = [];
  private sent = 0;
  private given: () => void = () => undefined;
  private readonly answer: Promise<AnalysedScene | null>;

  /** @param readingFirst  whether reading is waited for, and following comes after it */
  constructor(private readonly readingFirst: boolean) {
    this.answer = new Promise((resolve, reject) => {
      this.worker!.on('message', ({ spare, scene, error }: SceneAnswer) => {
        if (spare !== undefined) this.sent--;
        if (spare) this.spares.push(spare);
        if (scene !== undefined) resolve(scene);
        if (error) reject(fromWire(error));
        this.given();
      });
      const gone = () => {
        this.worker = null;
        this.sent = 0;
        this.given();
        reject(new LurnError('thread-died', 'Looking at what moves in the clip ended unexpectedly.'));
      };
      this.worker!.on('error', gone).on('exit', gone);
    });
    // Who never asks for it is told nothing.
    this.answer.catch(() => undefined);
  }

  /** Takes the next frame, whose samples may be overwritten afterwards; waits while too many are waiting. */
  async add({ data, width, height }: Plane): Promise<void> {
    const memory = this.spares.pop() ?? new ArrayBuffer(width * height);
    new Uint8Array(memory).set(data);
    this.waiting.push({ memory, width, height });
    const most = this.readingFirst ? MOST_WAITING : FEW_WAITING;
    if (this.waiting.length * width * height < most) return;
    this.send();
    while (this.sent > ON_THEIR_WAY) await new Promise<void>((resolve) => (this.given = resolve));
  }

  private send(): void {
    const picture = this.waiting.shift();
    if (!picture || !this.worker) return;
    this.sent++;
    this.worker?.postMessage(picture, [picture.memory]);
  }

  /**
   * What moves in the clip; null where its frames turned out to be others.
   *
   * @throws LurnError `thread-died`
   */
  async finish({ width, height, pixelAspect, frames, turns }: ClipInfo): Promise<AnalysedScene | null> {
    while (this.waiting.length > 0) this.send();
    const request: SceneRequest = { finish: { width, height, pixelAspect, frames, turns } };
    this.worker?.postMessage(request);
    const answer = await this.answer;
    if (this.worker) layBy(this.worker);
    this.worker = null;
    return answer;
  }

  /** Ends the thread of a clip that was not finished. */
  end(): void {
    void this.worker?.terminate();
    this.worker = null;
  }
}

/**
 * Indexes a clip and analyses its whole picture, in one pass.
 *
 * @throws LurnError as {@link indexClip} does, and `no-scene` where nothing in it can be held
 */
export async function readScene(
  path: string,
  signal?: AbortSignal,
  onFrame?: (frame: number, expected: number) => void,
): Promise<{ clip: IndexedClip; scene: AnalysedScene }> {
  const reader = new SceneReader(false);
  try {
    let expected = 0;
    const clip = await indexClip(path, {
      signal,
      beside: (facts) => {
        expected = facts.expected;
        return Promise.resolve({ sidelines: [], samples: SCENE_SAMPLES });
      },
      look: async (luma, frame) => {
        await reader.add(luma);
        onFrame?.(frame + 1, expected);
      },
    });
    const scene = await reader.finish(clip.info);
    const why = scene ? nothingToHold(scene) : 'Its frames could not be followed to the end.';
    if (!scene || why)
      throw new LurnError('no-scene', `Nothing in the picture can be held. ${why} Mark spots instead.`);
    return { clip, scene };
  } finally {
    reader.end();
  }
}
