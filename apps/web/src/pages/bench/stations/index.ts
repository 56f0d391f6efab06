import { frame } from './frame';
import { handOver } from './hand-over';
import { layers } from './layers';
import { mark } from './mark';
import { repair } from './repair';
import type { Station } from './station';
import { steady } from './steady';
import { track } from './track';
import type { StationId } from '../../../state/stations';

export { standingOf, type Helpers, type Station } from './station';

/** The stations of the work in order; a new one is a file here and a line in `state/stations`. */
export const STATIONS: readonly Station[] = [mark, track, repair, steady, frame, layers, handOver];

export function stationOf(id: StationId): Station {
  return STATIONS.find((s) => s.id === id)!;
}
