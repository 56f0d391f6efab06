import type { Remote } from 'comlink';
import { stoppedError } from '@lurn/core';
import type { QuarterTurns } from '@lurn/core/picture';
import { codedShape, type ClipFile, type Picture, type PictureClip, type Pictures } from '@lurn/media';
import { Comlink } from './comlink';
import type { DecodeApi } from './decode.worker';

/** Pictures that are asked for at a time: one that is waited for, and those after it. */
const AHEAD = 5;
/** How often it is asked whether a picture that is waited for is still wanted, in milliseconds. */
const ASK_MS = 30;

/** What decodes elsewhere: what is used of a thread of its own. */
export type Decoding = Pick<Remote<DecodeApi>, 'open' | 'startFor' | 'begin' | 'next' | 'stop'>;

/** A clip that is decoded in a thread of its own, a few pictures ahead. */
export class DecodedElsewhere implements PictureClip {
  readonly turns: QuarterTurns;
  readonly codedWidth: number;
  readonly codedHeight: number;
  readonly frames: number;
  private runs = 0;

  private constructor(
    file: ClipFile,
    private readonly api: Decoding,
    private readonly end: () => void,
  ) {
    this.frames = file.times.length;
    ({ turns: this.turns, codedWidth: this.codedWidth, codedHeight: this.codedHeight } = codedShape(file));
  }

  /** @param api, end  the thread, and what ends it @throws LurnError `clip-unreadable` */
  static async open(
    file: ClipFile,
    { api, end }: { readonly api: Decoding; readonly end: () => void } = ownThread(),
  ): Promise<DecodedElsewhere> {
    await api.open(file).catch((error: unknown) => {
      end();
      throw error;
    });
    return new DecodedElsewhere(file, api, end);
  }

  startFor(frame: number): Promise<number> {
    return this.api.startFor(frame);
  }

  async *picturesFrom(
    frame: number,
    gone: () => boolean = () => false,
    onWaiting: () => void = () => undefined,
  ): Pictures {
    const { api } = this;
    const run = ++this.runs;
    let waiting = false;
    const wait = () => {
      waiting = true;
      onWaiting();
    };
    await api.begin(run, frame, Comlink.proxy(wait));
    const coming: Promise<Picture | null>[] = [];
    const ask = (wanted?: number) => {
      const next = api.next(run, wanted);
      // Told when its turn comes.
      next.catch(() => undefined);
      coming.push(next);
    };
    try {
      for (;;) {
        while (coming.length < AHEAD) ask();
        // What is being decoded is waited for: the run goes on from there.
        const picture = await unlessGone(coming.shift()!, () => waiting && gone());
        waiting = false;
        if (!picture) return;
        // Those that are asked for already are what they are.
        const wanted = yield picture;
        ask(wanted);
      }
    } finally {
      void api.stop(run);
    }
  }

  close(): void {
    this.end();
  }
}

/** @throws LurnError `stopped` */
async function unlessGone<T>(coming: Promise<T>, gone: () => boolean): Promise<T> {
  let asking: ReturnType<typeof setInterval> | undefined;
  const stopped = new Promise<never>((_, reject) => {
    asking = setInterval(() => gone() && reject(stoppedError('Reading the frame')), ASK_MS);
  });
  try {
    return await Promise.race([coming, stopped]);
  } finally {
    clearInterval(asking);
  }
}

function ownThread(): { api: Decoding; end: () => void } {
  const worker = new Worker(new URL('./decode.worker.ts', import.meta.url), { type: 'module' });
  return { api: Comlink.wrap<DecodeApi>(worker), end: () => worker.terminate() };
}
