import type { Channel } from '@lurn/core/picture';
import { defaultSettings, type SpotSettings } from '@lurn/core/track';
import { As, ListOf, Optional } from '../../checks.js';
import { Spot, TrackerEye } from '../../trackers/index.js';
import { badMarks } from '../bad-marks.js';
import { checkNamed, checkPlace, MarkedPlace, type MarkedClip } from '../marked.js';

export class MarkedSpot extends MarkedPlace {
  @As(Spot)
  readonly name!: string;
  @Optional()
  @As(Spot)
  readonly patch?: Spot['patch'];
  @Optional()
  @As(Spot)
  readonly reach?: Spot['reach'];
  @Optional()
  @As(TrackerEye)
  readonly channel?: Channel;
  @Optional()
  @As(TrackerEye)
  readonly soften?: number;
  @Optional()
  @As(TrackerEye)
  readonly detail?: number;
  @Optional()
  @As(TrackerEye)
  readonly localContrast?: number;
  @Optional()
  @As(Spot)
  readonly allow?: Spot['allow'];
  @Optional()
  @As(Spot)
  readonly refresh?: Spot['refresh'];
  @Optional()
  @As(Spot)
  readonly lowMatch?: Spot['lowMatch'];
  @Optional()
  @As(Spot)
  readonly minConfidence?: number;
  @Optional()
  @ListOf(() => MarkedPlace, 100_000)
  readonly pins?: readonly MarkedPlace[];
}

/** A spot as a file of marks has it, with all that was left out filled in. */
export interface SpotEntry {
  readonly name: string;
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  readonly settings: SpotSettings;
  /** Places on other frames, given by hand; the spot's own frame is not among them. */
  readonly pins: readonly { readonly frame: number; readonly x: number; readonly y: number }[];
}

export function spotEntry(all: readonly MarkedSpot[], i: number, clip: MarkedClip): SpotEntry {
  const spot = all[i];
  const where = `spots[${i}]`;
  checkNamed(all, i, ['spots', 'spots'], clip);
  checkPlace(spot, where, clip);
  const taken = new Set([spot.frame]);
  spot.pins?.forEach((pin, k) => {
    checkPlace(pin, `${where}.pins[${k}]`, clip);
    if (taken.has(pin.frame)) throw badMarks(`${where}.pins[${k}]: frame ${pin.frame} has a place already`);
    taken.add(pin.frame);
  });
  const usual = defaultSettings(clip.picture.height);
  const { name, frame, x, y, channel = 'luma', soften = 0, detail = 0, localContrast = 0 } = spot;
  return {
    ...{ name, frame, x, y },
    settings: {
      patch: spot.patch ?? usual.patch,
      reach: spot.reach ?? usual.reach,
      eye: { channel, soften, detail, localContrast },
      allow: spot.allow ?? usual.allow,
      refresh: spot.refresh ?? usual.refresh,
      lowMatch: spot.lowMatch ?? usual.lowMatch,
      minConfidence: spot.minConfidence ?? usual.minConfidence,
    },
    pins: (spot.pins ?? []).map((p) => ({ frame: p.frame, x: p.x, y: p.y })),
  };
}
