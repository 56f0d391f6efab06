import { bench, setBench, STATIONS } from '../../../state/bench';
import type { SpotQuality } from '../../../state/spot-quality';
import { redo, undo } from '../../../state/shot';
import type { Tracker } from '../../../state/tracking';
import type { Action } from './action';
import { aimingActions } from './aiming';
import { viewingActions } from './viewing';
import { spotActions } from './spots';
import { trackingActions } from './tracking';
import { transportActions } from './transport';

export type { Action } from './action';

/** Every action of the Bench; its keys are those of `state/keymap`. */
export function benchActions(tracker: Tracker, quality: SpotQuality): Action[] {
  return [
    ...transportActions(),
    ...spotActions(quality),
    ...trackingActions(tracker),
    ...aimingActions(),
    ...viewingActions(),
    ...workingActions(tracker),
  ];
}

function workingActions(tracker: Tracker): Action[] {
  return [
    {
      id: 'leave',
      group: 'Work',
      label: 'Leave the tool',
      run: () =>
        setBench({ tool: { id: 'mark' }, rectangle: null, suggestions: [], preview: null, span: null }),
    },
    {
      id: 'undo',
      group: 'Work',
      label: 'Undo',
      run: () => {
        tracker.stop();
        undo();
      },
    },
    {
      id: 'redo',
      group: 'Work',
      label: 'Redo',
      run: redo,
    },
    ...STATIONS.map((station, i): Action => ({
      id: station.id,
      group: 'Work',
      label: `Station ${i + 1}: ${station.name}`,
      run: () => setBench({ station: station.id }),
    })),
    {
      id: 'keys',
      group: 'Work',
      label: 'This sheet',
      run: () => setBench({ keySheet: !bench().keySheet }),
    },
  ];
}
