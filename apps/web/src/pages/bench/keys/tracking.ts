import { deleteSamples } from '../../../state/acts';
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
      keys: 't',
      shown: 'T',
      run: () => void tracker.run('end'),
    },
    {
      id: 'track-start',
      group: 'Track',
      label: 'Track to the start',
      keys: 'shift+t',
      shown: 'Shift T',
      run: () => void tracker.run('start'),
    },
    {
      id: 'track-next',
      group: 'Track',
      label: 'Track one frame on',
      keys: 'g',
      shown: 'G',
      run: () => void tracker.run('next'),
    },
    {
      id: 'track-previous',
      group: 'Track',
      label: 'Track one frame back',
      keys: 'shift+g',
      shown: 'Shift G',
      run: () => void tracker.run('previous'),
    },
    {
      id: 'track-both',
      group: 'Track',
      label: 'Track both ways',
      keys: 'h',
      shown: 'H',
      run: () => void tracker.run('both'),
    },
    {
      id: 'track-pin',
      group: 'Track',
      label: 'Track to the next pin',
      keys: 'shift+h',
      shown: 'Shift H',
      run: () => void tracker.run('pin'),
    },
    {
      id: 'track-between',
      group: 'Track',
      label: 'Track between the pins round here',
      keys: 'shift+b',
      shown: 'Shift B',
      run: () => void tracker.between(),
    },
    {
      id: 'follow',
      group: 'Track',
      label: 'The view follows the spot',
      keys: 'a',
      shown: 'A',
      run: () => setBench({ follow: !bench().follow }),
    },
    { id: 'stop', group: 'Track', label: 'Stop tracking', keys: 'x', shown: 'X', run: () => tracker.stop() },
    {
      id: 'doubt-next',
      group: 'Repair',
      label: 'Next doubt',
      keys: 'z',
      shown: 'Z',
      run: () => nextDoubt(1),
    },
    {
      id: 'doubt-previous',
      group: 'Repair',
      label: 'Previous doubt',
      keys: 'shift+z',
      shown: 'Shift Z',
      run: () => nextDoubt(-1),
    },
    { id: 'fine', group: 'Repair', label: 'The doubt is fine', keys: 'o', shown: 'O', run: itIsFine },
    {
      id: 'check',
      group: 'Repair',
      label: 'Check by tracking back',
      keys: 'shift+o',
      shown: 'Shift O',
      run: () => void tracker.checkBack(),
    },
    { id: 'bridge', group: 'Repair', label: 'Bridge the gap', keys: 'p', shown: 'P', run: bridgeGap },
    {
      id: 'carry-on',
      group: 'Repair',
      label: 'Carry on elsewhere',
      keys: 'shift+c',
      shown: 'Shift C',
      run: beginCarryOn,
    },
    {
      id: 'by-hand',
      group: 'Repair',
      label: 'Place by hand',
      keys: 'shift+n',
      shown: 'Shift N',
      run: () => setBench({ tool: bench().tool?.kind === 'byHand' ? null : { kind: 'byHand', step: 1 } }),
    },
    {
      id: 'delete-here',
      group: 'Repair',
      label: 'Delete the samples of this frame',
      keys: 'shift+delete, shift+backspace',
      shown: 'Shift Del',
      run: () => deleteSamples(bench().frame, bench().frame),
    },
  ];
}
