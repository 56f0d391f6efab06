import type { Channel, Eye } from '@lurn/core/picture';
import type { LowMatch, Refresh } from '@lurn/core/track';
import { Id, Of, OneOf, Text, Whole, Within } from '../checks.js';
import { CHOICES, LIMITS } from '../limits.js';

/** Colours that trackers are drawn in: so many that people can tell apart. */
export const DATA_COLOURS = 8;

/** How a tracker sees the picture. */
export class TrackerEye implements Eye {
  @OneOf(CHOICES.channel)
  readonly channel!: Channel;
  @Within(LIMITS.soften)
  readonly soften!: number;
  @Within(LIMITS.detail)
  readonly detail!: number;
  @Within(LIMITS.localContrast)
  readonly localContrast!: number;
}

/** What every tracker has, whatever it measures. */
export abstract class TrackerBase {
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  /** The id of the mover that it is, or is on: spots of one mover predict and check each other. */
  @Id()
  readonly mover!: string;
  /** Index into the set of data colours. */
  @Whole([0, DATA_COLOURS - 1])
  readonly colour!: number;
  @Within([0, 1])
  readonly minConfidence!: number;
  /** How the tracker sees the picture. */
  @Of(() => TrackerEye)
  readonly eye!: Eye;
  @OneOf(CHOICES.refresh)
  readonly refresh!: Refresh;
  @OneOf(CHOICES.lowMatch)
  readonly lowMatch!: LowMatch;
}
