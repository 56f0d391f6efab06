import { bench, setBench, STATIONS } from '../../../state/bench';
import type { Looker } from '../../../state/looking';
import { redo, undo } from '../../../state/shot';
import type { Tracker } from '../../../state/tracking';
import type { Action } from './action';
import { aimingActions } from './aiming';
import { lookingActions } from './looking';
import { spotActions } from './spots';
import { trackingActions } from './tracking';
import { transportActions } from './transport';

export type { Action } from './action';

/** Every action of the Bench with its key: the left hand plays, marks and tracks, the right steps and nudges. */
export function benchActions(tracker: Tracker, looker: Looker): Action[] {
  return [
    ...transportActions(),
    ...spotActions(looker),
    ...trackingActions(tracker),
    ...aimingActions(),
    ...lookingActions(),
    ...workingActions(tracker),
  ];
}

function workingActions(tracker: Tracker): Action[] {
  return [
    {
      id: 'leave',
      group: 'Work',
      label: 'Leave the tool',
      keys: 'escape',
      shown: 'Esc',
      run: () => setBench({ tool: null, rectangle: null, suggestions: [], preview: null, span: null }),
    },
    {
      id: 'undo',
      group: 'Work',
      label: 'Undo',
      keys: 'mod+z',
      shown: 'Ctrl Z',
      run: () => {
        tracker.stop();
        undo();
      },
    },
    {
      id: 'redo',
      group: 'Work',
      label: 'Redo',
      keys: 'mod+shift+z, mod+y',
      shown: 'Ctrl Shift Z',
      run: redo,
    },
    ...STATIONS.map((station, i): Action => ({
      id: station,
      group: 'Work',
      label: `Station ${i + 1}: ${station[0].toUpperCase()}${station.slice(1)}`,
      keys: String(i + 1),
      shown: String(i + 1),
      run: () => setBench({ station }),
    })),
    {
      id: 'keys',
      group: 'Work',
      label: 'This sheet',
      keys: 'shift+slash',
      shown: '?',
      run: () => setBench({ keySheet: !bench().keySheet }),
    },
  ];
}
