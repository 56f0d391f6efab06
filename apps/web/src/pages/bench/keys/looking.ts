import { fitScale, layOut, zoomAbout } from '../../../lib/view';
import { bench, GUIDES, LAYOUTS, setBench, type Layout } from '../../../state/bench';
import { zoomTime } from '../strips/axis';
import type { Action } from './action';

/** Comparing, zooming, and what is drawn over the pictures. */
export function lookingActions(): Action[] {
  const zoom = (factor: number) => {
    const { camera, info } = bench();
    const pane = sourcePane();
    setBench({ camera: zoomAbout(camera, info, pane, pane.width / 2, pane.height / 2, factor) });
  };
  return [
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
      id: 'blink',
      group: 'Look',
      label: 'Blink between source and steadied',
      keys: 'shift+v',
      shown: 'Shift V',
      run: () => alternate('blink'),
    },
    {
      id: 'difference',
      group: 'Look',
      label: 'Difference from the reference frame',
      keys: 'shift+d',
      shown: 'Shift D',
      run: () => alternate('difference'),
    },
    {
      id: 'onion',
      group: 'Look',
      label: 'Onion: the reference frame laid over',
      keys: 'shift+a',
      shown: 'Shift A',
      run: () => alternate('onion'),
    },
    {
      id: 'closer',
      group: 'Look',
      label: '400 %',
      keys: 'shift+r',
      shown: 'Shift R',
      run: () => zoom(4 / currentScale() / devicePixelRatio),
    },
    {
      id: 'crosshair',
      group: 'Look',
      label: 'Crosshair in the middle of the view, or away',
      keys: 'shift+x',
      shown: 'Shift X',
      run: toggleCrosshair,
    },
    {
      id: 'guides',
      group: 'Look',
      label: 'Guides: thirds, centre, none',
      keys: 'shift+s',
      shown: 'Shift S',
      run: () => setBench({ guides: GUIDES[(GUIDES.indexOf(bench().guides) + 1) % GUIDES.length] }),
    },
    {
      id: 'trails',
      group: 'Look',
      label: 'Trails of the spots in the steadied picture',
      keys: 'shift+y',
      shown: 'Shift Y',
      run: () => setBench({ trails: !bench().trails }),
    },
    {
      id: 'curves',
      group: 'Look',
      label: 'Curves of the motion',
      keys: 'shift+m',
      shown: 'Shift M',
      run: () => setBench({ motionCurves: !bench().motionCurves }),
    },
  ];
}

function sourcePane() {
  const host = document.querySelector('[role="application"]')!.getBoundingClientRect();
  return layOut(bench().layout, host.width, host.height, 0.5)[0];
}

function currentScale(): number {
  const { camera, info } = bench();
  return camera.scale ?? fitScale(info, sourcePane());
}

function nextLayout(): void {
  const { layout } = bench();
  setBench({ layout: LAYOUTS[(LAYOUTS.indexOf(layout) + 1) % LAYOUTS.length] });
}

function toggleAlone(): void {
  setBench({ layout: bench().layout === 'source' ? 'steadied' : 'source' });
}

/** To a way of comparing, and back to both. */
function alternate(layout: Layout): void {
  setBench({ layout: bench().layout === layout ? 'both' : layout });
}

function toggleCrosshair(): void {
  const { crosshair, camera, info } = bench();
  const middle =
    camera.scale === null ? { x: info.width / 2, y: info.height / 2 } : { x: camera.x, y: camera.y };
  setBench({ crosshair: crosshair ? null : middle });
}
