import { setEdge, setReference } from '../../../state/acts';
import { bench, goTo, setBench } from '../../../state/bench';
import { shotDocument } from '../../../state/shot';
import type { Action } from './action';

/** Playing, stepping, and the marks on the ruler: the left hand. */
export function transportActions(): Action[] {
  const range = () => shotDocument().range;
  return [
    {
      id: 'play',
      group: 'Play',
      label: 'Play or stop',
      keys: 'space',
      shown: 'Space',
      run: () => setBench({ playing: !bench().playing }),
    },
    {
      id: 'first',
      group: 'Play',
      label: 'To the in point',
      keys: 'q',
      shown: 'Q',
      run: () => goTo(range().from),
    },
    {
      id: 'last',
      group: 'Play',
      label: 'To the out point',
      keys: 'e',
      shown: 'E',
      run: () => goTo(range().to),
    },
    {
      id: 'to-ref',
      group: 'Play',
      label: 'To the reference frame',
      keys: 'w',
      shown: 'W',
      run: () => goTo(shotDocument().ref),
    },
    { id: 'next', group: 'Step', label: 'One frame on', keys: 'right', shown: '→', run: () => step(1) },
    { id: 'previous', group: 'Step', label: 'One frame back', keys: 'left', shown: '←', run: () => step(-1) },
    {
      id: 'next10',
      group: 'Step',
      label: 'Ten frames on',
      keys: 'shift+right',
      shown: 'Shift →',
      run: () => step(10),
    },
    {
      id: 'previous10',
      group: 'Step',
      label: 'Ten frames back',
      keys: 'shift+left',
      shown: 'Shift ←',
      run: () => step(-10),
    },
    { id: 'in', group: 'Range', label: 'In point here', keys: 's', shown: 'S', run: () => setEdge('from') },
    { id: 'out', group: 'Range', label: 'Out point here', keys: 'd', shown: 'D', run: () => setEdge('to') },
    {
      id: 'ref',
      group: 'Range',
      label: 'Reference frame here',
      keys: 'r',
      shown: 'R',
      run: () => setReference(),
    },
  ];
}

function step(by: number): void {
  setBench({ playing: false });
  goTo(bench().frame + by);
}
