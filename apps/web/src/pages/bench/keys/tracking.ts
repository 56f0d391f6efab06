import { deleteSamples } from '../../../state/edit-spots';
import { bench, setBench } from '../../../state/bench';
import { beginCarryOn, bridgeGap, itIsFine, nextDoubt } from '../../../state/repairs';
import type { Tracker } from '../../../state/tracking';
import type { Action } from './action';

/** Tracking, and going through what is doubtful. */
export function trackingActions(tracker: Tracker): Action[] {
  return [
    {
      id: 'track-end',
      group: 'Track',
      label: 'Track to the end',
      run: () => void tracker.run('end'),
    },
    {
      id: 'track-start',
      group: 'Track',
      label: 'Track to the start',
      run: () => void tracker.run('start'),
    },
    {
      id: 'track-next',
      group: 'Track',
      label: 'Track one frame on',
      run: () => void tracker.run('next'),
    },
    {
      id: 'track-previous',
      group: 'Track',
      label: 'Track one frame back',
      run: () => void tracker.run('previous'),
    },
    {
      id: 'track-both',
      group: 'Track',
      label: 'Track both ways',
      run: () => void tracker.run('both'),
    },
    {
      id: 'track-pin',
      group: 'Track',
      label: 'Track to the next pin',
      run: () => void tracker.run('pin'),
    },
    {
      id: 'track-between',
      group: 'Track',
      label: 'Track between the pins round here',
      run: () => void tracker.between(),
    },
    {
      id: 'follow',
      group: 'Track',
      label: 'The view follows the spot',
      run: () => setBench({ follow: !bench().follow }),
    },
    { id: 'stop', group: 'Track', label: 'Stop tracking', run: () => tracker.stop() },
    {
      id: 'doubt-next',
      group: 'Repair',
      label: 'Next doubt',
      run: () => nextDoubt(1),
    },
    {
      id: 'doubt-previous',
      group: 'Repair',
      label: 'Previous doubt',
      run: () => nextDoubt(-1),
    },
    { id: 'fine', group: 'Repair', label: 'The doubt is fine', run: itIsFine },
    {
      id: 'check',
      group: 'Repair',
      label: 'Check by tracking back',
      run: () => void tracker.checkBack(),
    },
    { id: 'bridge', group: 'Repair', label: 'Bridge the gap', run: bridgeGap },
    {
      id: 'carry-on',
      group: 'Repair',
      label: 'Carry on elsewhere',
      run: beginCarryOn,
    },
    {
      id: 'by-hand',
      group: 'Repair',
      label: 'Place by hand',
      run: () =>
        setBench({ tool: bench().tool.id === 'by-hand' ? { id: 'mark' } : { id: 'by-hand', step: 1 } }),
    },
    {
      id: 'delete-here',
      group: 'Repair',
      label: 'Delete the samples of this frame',
      run: () => deleteSamples(bench().frame, bench().frame),
    },
  ];
}
