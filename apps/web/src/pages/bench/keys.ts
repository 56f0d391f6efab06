import { fitScale, layOut, zoomAbout } from '../../lib/view';
import {
  deleteSamples,
  deleteSelected,
  nudge,
  placeSpot,
  reshape,
  selectNeighbour,
  setEdge,
  setReference,
} from '../../state/acts';
import { bench, goTo, LAYOUTS, setBench, STATIONS } from '../../state/bench';
import type { Looker } from '../../state/looking';
import { zoomTime } from './strips/axis';
import { beginCarryOn, bridgeGap, itIsFine, nextDoubt } from '../../state/repairs';
import { redo, shotDocument, undo } from '../../state/shot';
import type { Tracker } from '../../state/tracking';

export interface Action {
  readonly id: string;
  readonly group: 'Play' | 'Step' | 'Range' | 'Spots' | 'Track' | 'Repair' | 'Look' | 'Work';
  readonly label: string;
  /** As react-hotkeys-hook takes it. */
  readonly keys: string;
  /** As it is printed. */
  readonly shown: string;
  readonly run: () => void;
}

/** Every action of the Bench with its key: the left hand plays, marks and tracks, the right steps and nudges. */
export function benchActions(tracker: Tracker, looker: Looker): Action[] {
  const range = () => shotDocument().range;
  const zoom = (factor: number) => {
    const { camera, info } = bench();
    const pane = sourcePane();
    setBench({ camera: zoomAbout(camera, info, pane, pane.width / 2, pane.height / 2, factor) });
  };
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
    {
      id: 'new',
      group: 'Spots',
      label: 'New spot in the middle of the view',
      keys: 'n',
      shown: 'N',
      run: newSpot,
    },
    { id: 'up', group: 'Spots', label: 'Nudge up 0.1 px', keys: 'i', shown: 'I', run: () => nudge(0, -0.1) },
    {
      id: 'left',
      group: 'Spots',
      label: 'Nudge left 0.1 px',
      keys: 'j',
      shown: 'J',
      run: () => nudge(-0.1, 0),
    },
    {
      id: 'down',
      group: 'Spots',
      label: 'Nudge down 0.1 px',
      keys: 'k',
      shown: 'K',
      run: () => nudge(0, 0.1),
    },
    {
      id: 'right',
      group: 'Spots',
      label: 'Nudge right 0.1 px',
      keys: 'l',
      shown: 'L',
      run: () => nudge(0.1, 0),
    },
    {
      id: 'up1',
      group: 'Spots',
      label: 'Nudge up 1 px',
      keys: 'shift+i',
      shown: 'Shift I',
      run: () => nudge(0, -1),
    },
    {
      id: 'left1',
      group: 'Spots',
      label: 'Nudge left 1 px',
      keys: 'shift+j',
      shown: 'Shift J',
      run: () => nudge(-1, 0),
    },
    {
      id: 'down1',
      group: 'Spots',
      label: 'Nudge down 1 px',
      keys: 'shift+k',
      shown: 'Shift K',
      run: () => nudge(0, 1),
    },
    {
      id: 'right1',
      group: 'Spots',
      label: 'Nudge right 1 px',
      keys: 'shift+l',
      shown: 'Shift L',
      run: () => nudge(1, 0),
    },
    {
      id: 'spot-next',
      group: 'Spots',
      label: 'Next spot',
      keys: 'period',
      shown: '.',
      run: () => selectNeighbour(1),
    },
    {
      id: 'spot-previous',
      group: 'Spots',
      label: 'Previous spot',
      keys: 'comma',
      shown: ',',
      run: () => selectNeighbour(-1),
    },
    {
      id: 'use',
      group: 'Spots',
      label: 'Use the spot, or leave it out',
      keys: 'u',
      shown: 'U',
      run: toggleUse,
    },
    {
      id: 'delete',
      group: 'Spots',
      label: 'Delete the selected spot',
      keys: 'delete, backspace',
      shown: 'Del',
      run: deleteSelected,
    },
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
    {
      id: 'suggest',
      group: 'Spots',
      label: 'Suggest spots',
      keys: 'b',
      shown: 'B',
      run: () => void looker.suggest(4, bench().rectangle),
    },
    {
      id: 'map',
      group: 'Look',
      label: 'Grip map',
      keys: 'm',
      shown: 'M',
      run: () => setBench({ showMap: !bench().showMap }),
    },
    {
      id: 'eye',
      group: 'Look',
      label: 'Tracker’s eye',
      keys: 'y',
      shown: 'Y',
      run: () => setBench({ eyeView: !bench().eyeView }),
    },
    {
      id: 'time-in',
      group: 'Look',
      label: 'Zoom the time axis in',
      keys: 'bracketright',
      shown: ']',
      run: () => zoomTime(0.6),
    },
    {
      id: 'time-out',
      group: 'Look',
      label: 'Zoom the time axis out',
      keys: 'bracketleft',
      shown: '[',
      run: () => zoomTime(1 / 0.6),
    },
    {
      id: 'time-all',
      group: 'Look',
      label: 'The whole time axis',
      keys: 'backslash',
      shown: '\\',
      run: () => setBench({ timeView: null }),
    },
    {
      id: 'leave',
      group: 'Work',
      label: 'Leave the tool',
      keys: 'escape',
      shown: 'Esc',
      run: () => setBench({ tool: null, rectangle: null, suggestions: [], preview: null, span: null }),
    },
    { id: 'stop', group: 'Track', label: 'Stop tracking', keys: 'x', shown: 'X', run: () => tracker.stop() },
    {
      id: 'compare',
      group: 'Look',
      label: 'Compare: both, wipe, source, steadied',
      keys: 'c',
      shown: 'C',
      run: () => nextLayout(),
    },
    {
      id: 'toggle',
      group: 'Look',
      label: 'Source or steadied alone, back and forth',
      keys: 'v',
      shown: 'V',
      run: toggleAlone,
    },
    {
      id: 'fit',
      group: 'Look',
      label: 'Fit the picture',
      keys: 'f',
      shown: 'F',
      run: () => setBench({ camera: { ...bench().camera, scale: null } }),
    },
    {
      id: 'full',
      group: 'Look',
      label: '100 %',
      keys: 'shift+f',
      shown: 'Shift F',
      run: () => zoom(1 / currentScale() / devicePixelRatio),
    },
    {
      id: 'zoom-in',
      group: 'Look',
      label: 'Zoom in',
      keys: 'equal, shift+equal',
      shown: '+',
      run: () => zoom(1.25),
    },
    { id: 'zoom-out', group: 'Look', label: 'Zoom out', keys: 'minus', shown: '-', run: () => zoom(0.8) },
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

function step(by: number): void {
  setBench({ playing: false });
  goTo(bench().frame + by);
}

function sourcePane() {
  const host = document.querySelector('[role="application"]')!.getBoundingClientRect();
  return layOut(bench().layout, host.width, host.height, 0.5)[0];
}

function currentScale(): number {
  const { camera, info } = bench();
  return camera.scale ?? fitScale(info, sourcePane());
}

function newSpot(): void {
  const { camera, info } = bench();
  const middle =
    camera.scale === null ? { x: info.width / 2, y: info.height / 2 } : { x: camera.x, y: camera.y };
  setBench({ station: 'spots' });
  placeSpot(middle);
}

function toggleUse(): void {
  const { spots } = shotDocument();
  for (const id of bench().selected) reshape(id, { used: !spots.find((s) => s.id === id)?.used });
}

function nextLayout(): void {
  const { layout } = bench();
  setBench({ layout: LAYOUTS[(LAYOUTS.indexOf(layout) + 1) % LAYOUTS.length] });
}

function toggleAlone(): void {
  setBench({ layout: bench().layout === 'source' ? 'steadied' : 'source' });
}
