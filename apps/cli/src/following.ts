import {
  foldSteps,
  trackerKind,
  type FollowRequest,
  type FrameSource,
  type Measured,
  type MeasuredKind,
} from '@lurn/core/track';
import { progressLine, type Surroundings } from './surroundings.js';

/** Follows trackers of marks, keeps what is measured of them, and tells where one was lost. */
export class Following<K extends MeasuredKind> {
  /** What is known of each, by its id. */
  readonly tracks: Map<string, Measured<K>>;
  readonly stops: object[] = [];
  private readonly progress: (done: number, total: number) => void;

  constructor(
    private readonly kind: K,
    private readonly source: FrameSource,
    known: Iterable<readonly [string, Measured<K>]>,
    private readonly io: Surroundings,
  ) {
    this.tracks = new Map(known);
    this.progress = progressLine(io, 'Tracking');
  }

  /** @throws LurnError as the kind does */
  async run(request: FollowRequest<K>): Promise<void> {
    const { kind, tracks, io } = this;
    const protocol = trackerKind(kind);
    for await (const step of protocol.follow(this.source, request, io.signal)) {
      for (const [id, track] of foldSteps(protocol, (id) => tracks.get(id) ?? null, [step], request.to))
        tracks.set(id, track);
      for (const { id, since, reason, message } of step.stopped) {
        this.stops.push({ [kind]: id, frame: since, reason, message });
        io.err(`lurn: note: ${message}\n`);
      }
      this.progress(step.done, step.total);
    }
  }
}
