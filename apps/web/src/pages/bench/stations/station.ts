import type { ComponentType } from 'react';
import type { Plan } from '@lurn/core/plan';
import { countSamples } from '@lurn/core/track';
import { spotsOf, type ClipInfo, type ClipSummary, type ShotDocument, type ShotState } from '@lurn/model';
import type { Tracking } from '../../../state/bench';
import type { SpotQuality } from '../../../state/spot-quality';
import type { Measurer } from '../../../state/measuring';
import type { Plater } from '../../../state/plates';
import type { Saver } from '../../../state/saving';
import type { StationId } from '../../../state/stations';
import type { Tracker } from '../../../state/tracking';

/** The long-lived helpers of an open Bench. */
export interface Helpers {
  readonly tracker: Tracker;
  readonly quality: SpotQuality;
  readonly saver: Saver;
  readonly measurer: Measurer;
  readonly plater: Plater;
}

/** How far a station has come, in words and numbers. */
export interface Progress {
  readonly text: string;
  readonly done: boolean;
}

/** What progress is told from. */
export interface Standing {
  readonly document: ShotDocument;
  readonly info: ClipInfo;
  readonly clip: ClipSummary;
  readonly steady: Plan | null;
  readonly tracking: Tracking | null;
  /** Causes of doubt. */
  readonly doubts: number;
  /** Some spot was tracked beyond where it was marked. */
  readonly tracked: boolean;
  /** Frames of the range that the solve knows all of that was asked, and frames of the range. */
  readonly covered: number;
  readonly wanted: number;
  readonly sceneHeld: SceneHeld | null;
  /** Frames of the range that neither spots nor the whole picture tell all of. */
  readonly short: number;
  /** More than one spot is used, so that rotation and scale can be told. */
  readonly several: boolean;
}

export interface Station {
  readonly id: StationId;
  readonly name: string;
  readonly Panel: ComponentType<Helpers>;
  readonly progress: (standing: Standing) => Progress;
}

/** What is held of the scene while nothing is marked. */
export interface SceneHeld {
  readonly name: string;
  /** Of what is measured of the picture; null of a mover of the editor's own. */
  readonly share: number | null;
}

/**
 * What is held of the scene; null where nothing is known of it.
 *
 * @param mover  the id of the scene's mover that the plan holds
 */
export function sceneHeldOf(
  { made }: ClipSummary,
  { held, movers }: ShotDocument,
  mover: string | null,
): SceneHeld | null {
  const id = held ?? mover;
  const own = movers.find((m) => m.id === id)?.name;
  const found = made?.scene?.movers.find((m, i) => (id === null ? i === 0 : m.id === id));
  const name = own || found?.name;
  return name ? { name, share: found?.share || null } : null;
}

export function standingOf(
  { document, measured }: ShotState,
  rest: Pick<Standing, 'info' | 'clip' | 'steady' | 'tracking' | 'doubts'>,
): Standing {
  const { range } = document;
  const spots = spotsOf(document);
  const several = spots.filter((s) => s.used).length > 1;
  const { support = [], filled } = rest.steady?.motion ?? {};
  const told = (f: number) =>
    several ? support[f] === 'full' || support[f] === 'guessed' : support[f] !== 'none';
  let [covered, short] = [0, 0];
  for (let f = range.from; f <= range.to && f < support.length; f++) {
    if (told(f)) covered++;
    else if (!filled?.[f]) short++;
  }
  const tracked = document.trackers.some(({ id }) => measured[id] && countSamples(measured[id], 2) > 1);
  const sceneHeld =
    document.trackers.length > 0 || !rest.steady ? null : sceneHeldOf(rest.clip, document, rest.steady.mover);
  return {
    ...rest,
    document,
    sceneHeld,
    short,
    tracked,
    covered,
    wanted: range.to - range.from + 1,
    several,
  };
}
