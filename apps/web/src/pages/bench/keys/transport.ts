import { cutHere } from '../../../state/cuts';
import { setEdge, setReference } from '../../../state/edit-spots';
import { bench, goTo, setBench } from '../../../state/bench';
import { playOrStop, shuttle } from '../../../state/player';
import { shotDocument } from '../../../state/shot';
import { beginNote, nextNote } from '../../../state/notes';
import type { Action } from './action';

/** Playing, stepping, and the marks on the ruler. */
export function transportActions(): Action[] {
  const range = () => shotDocument().range;
  return [
    {
      id: 'play',
      group: 'Play',
      label: 'Play or stop',
      run: playOrStop,
    },
    { id: 'shuttle-back', group: 'Play', label: 'Play back, with each press faster', run: () => shuttle(-1) },
    { id: 'halt', group: 'Play', label: 'Stop', run: () => setBench({ playing: false, speed: 1 }) },
    { id: 'shuttle-on', group: 'Play', label: 'Play on, with each press faster', run: () => shuttle(1) },
    { id: 'mute', group: 'Play', label: 'Sound on or off', run: () => setBench({ muted: !bench().muted }) },
    {
      id: 'first',
      group: 'Play',
      label: 'To the in point',
      run: () => goTo(range().from),
    },
    {
      id: 'last',
      group: 'Play',
      label: 'To the out point',
      run: () => goTo(range().to),
    },
    {
      id: 'to-ref',
      group: 'Play',
      label: 'To the reference frame',
      run: () => goTo(shotDocument().ref),
    },
    { id: 'next', group: 'Step', label: 'One frame on', run: () => step(1) },
    { id: 'previous', group: 'Step', label: 'One frame back', run: () => step(-1) },
    {
      id: 'next10',
      group: 'Step',
      label: 'Ten frames on',
      run: () => step(10),
    },
    {
      id: 'previous10',
      group: 'Step',
      label: 'Ten frames back',
      run: () => step(-10),
    },
    { id: 'in', group: 'Range', label: 'In point here', run: () => setEdge('from') },
    { id: 'out', group: 'Range', label: 'Out point here', run: () => setEdge('to') },
    {
      id: 'ref',
      group: 'Range',
      label: 'Reference frame here',
      run: () => setReference(),
    },
    { id: 'note', group: 'Range', label: 'Write a note on this frame', run: beginNote },
    { id: 'cut', group: 'Range', label: 'Cut here: smooth the parts by themselves', run: cutHere },
    { id: 'note-next', group: 'Range', label: 'To the next note', run: () => nextNote(1) },
    { id: 'note-previous', group: 'Range', label: 'To the note before', run: () => nextNote(-1) },
  ];
}

function step(by: number): void {
  setBench({ playing: false });
  goTo(bench().frame + by);
}
