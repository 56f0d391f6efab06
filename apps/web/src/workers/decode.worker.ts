import { OpenClip, type ClipFile, type Picture, type Pictures } from '@lurn/media';
import { LurnError } from '@lurn/core';
import { Comlink } from './comlink';

interface Run {
  readonly pictures: Pictures;
  gone: boolean;
}

/**
 * Decodes, and does nothing else: a decoder takes the next packet only when its thread is free to say so, so that one
 * that paints as well would hold it up.
 */
class DecodeWorker {
  private clip: OpenClip | null = null;
  private readonly runs = new Map<number, Run>();

  /** @throws LurnError `clip-unreadable` */
  async open(file: ClipFile): Promise<void> {
    this.clip = await OpenClip.open(file);
  }

  startFor(frame: number): Promise<number> {
    return this.clip!.startFor(frame);
  }

  /** Begins to decode. @param onWaiting  is told when a part that is not there yet is waited for */
  begin(run: number, frame: number, onWaiting: () => void): void {
    const made: Run = { pictures: this.clip!.picturesFrom(frame, () => made.gone, onWaiting), gone: false };
    this.runs.set(run, made);
  }

  /** The next picture of a run; null at the end. @param wanted  the first frame that is, from now on */
  async next(run: number, wanted?: number): Promise<Picture | null> {
    const { value } = (await this.runs.get(run)?.pictures.next(wanted)) ?? {};
    if (!value) return null;
    return Comlink.transfer(value, [...new Set([value.y, value.u, value.v].map((p) => p.data.buffer))]);
  }

  stop(run: number): void {
    const stopped = this.runs.get(run);
    if (!stopped) return;
    this.runs.delete(run);
    stopped.gone = true;
    // What still waits for a part says that it was stopped; nobody wants to know any more.
    stopped.pictures.return(undefined).catch((error: unknown) => {
      if (!(error instanceof LurnError)) throw error;
    });
  }
}

export type DecodeApi = DecodeWorker;
Comlink.expose(new DecodeWorker());
