import { TrackPanel } from '../panels/TrackPanel';
import type { Station } from './station';

export const track: Station = {
  id: 'track',
  name: 'Track',
  Panel: TrackPanel,
  progress: ({ tracking, tracked, covered, wanted, info, sceneHeld }) => ({
    done: (tracked || sceneHeld !== null) && covered === wanted,
    text: tracking
      ? `Frame ${tracking.frame}, ${tracking.done} of ${tracking.total}`
      : tracked || sceneHeld
        ? `${covered} of ${wanted} frames`
        : `0 of ${info.frames} frames`,
  }),
};
