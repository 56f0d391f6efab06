import { stoppedError, type AbortSignalLike } from '../errors.js';
import type { Channel } from '../picture/channel.js';
import type { Eye } from '../picture/eye.js';
import type { Plane } from '../picture/plane.js';
import { Pyramid } from '../picture/pyramid.js';

/** Where a tracker gets pictures from. Frames are asked for one after the other, in either direction. */
export interface FrameSource {
  /** One channel of a frame, upright and at full size. */
  plane(frame: number, channel: Channel, signal?: AbortSignalLike): Promise<Plane>;
}

/** Pictures as eyes see them, for one frame after the other: the memory of those of the frame before is taken over. */
export class SeenPictures {
  private now = new Map<string, Pyramid>();
  private before = new Map<string, Pyramid>();

  /** @param levels  of their pyramids */
  constructor(
    private readonly source: FrameSource,
    private readonly levels: number,
    private readonly signal?: AbortSignalLike,
  ) {}

  /** Gives up what was seen of the frame before. */
  next(): void {
    // Under its look alone, whatever frame it was of.
    this.before = new Map([...this.now].map(([key, p]) => [key.slice(key.indexOf(' ')), p]));
    this.now.clear();
  }

  /**
   * @param apart   tells pictures apart that are seen through one eye and yet not alike
   * @param closed  what is done to a plane before it is looked at
   */
  async of(frame: number, eye: Eye, apart = '', closed: (plane: Plane) => Plane = same): Promise<Pyramid> {
    const look = ` ${eye.channel} ${eye.soften} ${eye.detail} ${eye.localContrast} ${apart}`;
    const key = `${frame}${look}`;
    let picture = this.now.get(key);
    if (picture) return picture;
    const plane = closed(await this.source.plane(frame, eye.channel, this.signal));
    picture = new Pyramid(plane, this.levels, this.before.get(look), eye);
    this.before.delete(look);
    this.now.set(key, picture);
    return picture;
  }
}

const same = (plane: Plane) => plane;

/** How far a run has come. */
export interface Progress {
  readonly frame: number;
  /** How many of the asked frames are done, and of how many. */
  readonly done: number;
  readonly total: number;
}

/**
 * Trackers followed over frames, whatever they measure: begun on the first, each taken on from frame to frame until it
 * stops, what is hidden at the end withdrawn.
 */
export abstract class FrameRun<Runner, Stop, Result extends { readonly stopped: Stop[] }> {
  protected runners: Runner[] = [];
  protected readonly pictures: SeenPictures;

  constructor(
    source: FrameSource,
    levels: number,
    protected readonly range: { readonly from: number; readonly to: number },
    private readonly signal?: AbortSignalLike,
  ) {
    this.pictures = new SeenPictures(source, levels, signal);
  }

  /** Makes runners of all that can be followed. @returns why others cannot be */
  protected abstract begin(): Promise<Stop[]>;
  /** What a frame has brought before anything is measured on it. */
  protected abstract nothing(): Result;
  /** Takes a runner to a frame. @returns the one that goes on, null where none does; the result says why */
  protected abstract advance(runner: Runner, frame: number, result: Result): Promise<Runner | null>;
  /** Why what is still hidden at the last frame is withdrawn; null for what is not hidden. */
  protected abstract withdrawn(runner: Runner, frame: number): Stop | null;

  /** In which order they are taken on. */
  protected inOrder(runners: readonly Runner[]): readonly Runner[] {
    return runners;
  }

  /** Before a frame is looked at. */
  protected enter(): void {
    this.pictures.next();
  }

  /** @throws LurnError `stopped` when the signal is aborted; what beginning, advancing and the source throw */
  async *steps(): AsyncGenerator<Result & Progress> {
    const { from, to } = this.range;
    const step = to >= from ? 1 : -1;
    const total = Math.abs(to - from);
    const stopped = await this.begin();
    if (stopped.length > 0) yield { ...this.nothing(), stopped, frame: from, done: 0, total };
    for (let frame = from + step, done = 1; done <= total && this.runners.length > 0; frame += step, done++) {
      if (this.signal?.aborted) throw stoppedError('Tracking');
      const result = await this.step(frame);
      if (frame === to) result.stopped.push(...this.runners.flatMap((r) => this.withdrawn(r, frame) ?? []));
      yield { ...result, frame, done, total };
    }
  }

  private async step(frame: number): Promise<Result> {
    this.enter();
    const result = this.nothing();
    const next: Runner[] = [];
    for (const runner of this.inOrder(this.runners)) {
      const kept = await this.advance(runner, frame, result);
      if (kept) next.push(kept);
    }
    this.runners = next;
    return result;
  }
}
