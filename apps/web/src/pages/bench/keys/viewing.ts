import { fitScale, layOut, zoomAbout } from '../../../lib/view';
import {
  bench,
  chooseLayout,
  GUIDES,
  LAYOUTS,
  setBench,
  type DrawnKind,
  type Layout,
} from '../../../state/bench';
import { findFaces } from '../../../state/faces';
import { joinTrackers } from '../../../state/soft/joining';
import { joinOrPart } from '../../../state/soft/mesh-points';
import { pointerPlace } from '../view/pointer-place';
import { zoomTime } from '../strips/axis';
import type { Action } from './action';

/** Comparing, zooming, and what is drawn over the pictures. */
export function viewingActions(): Action[] {
  const zoom = (factor: number) => {
    const { camera, info } = bench();
    const pane = sourcePane();
    const { x, y } = pointerPlace() ?? { x: pane.width / 2, y: pane.height / 2 };
    setBench({ camera: zoomAbout(camera, info, pane, x, y, factor) });
  };
  return [
    {
      id: 'bare',
      group: 'Look',
      label: 'With and without the layers',
      run: () => setBench({ bare: !bench().bare }),
    },
    {
      id: 'tint',
      group: 'Look',
      label: 'Tint what moves as one',
      run: () => setBench({ tint: !bench().tint }),
    },
    {
      id: 'hold',
      group: 'Look',
      label: 'Point at what should be held',
      run: () => setBench({ tool: { id: bench().tool.id === 'hold' ? 'mark' : 'hold' } }),
    },
    {
      id: 'ignore-area',
      group: 'Look',
      label: 'Draw what is never measured',
      run: () => toggleDrawing('ignore'),
    },
    {
      id: 'focus-area',
      group: 'Look',
      label: 'Draw what alone is measured',
      run: () => toggleDrawing('focus'),
    },
    {
      id: 'surface',
      group: 'Look',
      label: 'Draw round a flat surface',
      run: () => {
        setBench({ station: 'mark' });
        toggleDrawing('surface');
      },
    },
    {
      id: 'soft',
      group: 'Look',
      label: 'Draw round a soft surface',
      run: () => {
        setBench({ station: 'mark' });
        toggleDrawing('soft');
      },
    },
    {
      id: 'by-colour',
      group: 'Look',
      label: 'A mesh of what has one colour',
      run: () =>
        setBench({ station: 'mark', tool: { id: bench().tool.id === 'by-colour' ? 'mark' : 'by-colour' } }),
    },
    { id: 'faces', group: 'Look', label: 'Find faces on this frame', run: () => void findFaces() },
    {
      id: 'points',
      group: 'Look',
      label: 'Points of the selected mesh: put, choose, cut',
      run: () => {
        const inHand = bench().tool.id === 'points';
        setBench({ station: 'mark', tool: { id: inHand ? 'mark' : 'points' } });
      },
    },
    {
      id: 'edge',
      group: 'Look',
      label: 'Join the two chosen points of a mesh, or part them',
      run: joinOrPart,
    },
    {
      id: 'join',
      group: 'Look',
      label: 'Let spots and surfaces join the selected mesh as points',
      run: joinTrackers,
    },
    {
      id: 'dots',
      group: 'Look',
      label: 'Dots on soft surfaces',
      run: () => setBench({ dots: !bench().dots }),
    },
    {
      id: 'grid',
      group: 'Look',
      label: 'Grid check of the selected surface',
      run: () => setBench({ gridCheck: !bench().gridCheck }),
    },
    {
      id: 'misfits',
      group: 'Look',
      label: 'How each part of the selected surface fits',
      run: () => setBench({ misfits: !bench().misfits }),
    },
    {
      id: 'regroup',
      group: 'Look',
      label: 'Draw round what moves together',
      run: () => {
        setBench({ station: 'steady', tint: true });
        toggleDrawing('regroup');
      },
    },
    {
      id: 'map',
      group: 'Look',
      label: 'Grip map',
      run: () => setBench({ showMap: !bench().showMap }),
    },
    {
      id: 'eye',
      group: 'Look',
      label: 'Tracker’s eye',
      run: () => setBench({ eyeView: !bench().eyeView }),
    },
    {
      id: 'time-in',
      group: 'Look',
      label: 'Zoom the time axis in',
      run: () => zoomTime(0.6),
    },
    {
      id: 'time-out',
      group: 'Look',
      label: 'Zoom the time axis out',
      run: () => zoomTime(1 / 0.6),
    },
    {
      id: 'time-all',
      group: 'Look',
      label: 'The whole time axis',
      run: () => setBench({ timeView: null }),
    },
    {
      id: 'compare',
      group: 'Look',
      label: 'Compare: both, wipe, source, steadied',
      run: () => nextLayout(),
    },
    {
      id: 'toggle',
      group: 'Look',
      label: 'Source or steadied alone, back and forth',
      run: toggleAlone,
    },
    {
      id: 'fit',
      group: 'Look',
      label: 'Fit the picture',
      run: () => setBench({ camera: { ...bench().camera, scale: null } }),
    },
    {
      id: 'full',
      group: 'Look',
      label: '100 %',
      run: () => zoom(1 / currentScale() / devicePixelRatio),
    },
    {
      id: 'zoom-in',
      group: 'Look',
      label: 'Zoom in',
      run: () => zoom(1.25),
    },
    { id: 'zoom-out', group: 'Look', label: 'Zoom out', run: () => zoom(0.8) },
    {
      id: 'blink',
      group: 'Look',
      label: 'Blink between source and steadied',
      run: () => alternate('blink'),
    },
    {
      id: 'difference',
      group: 'Look',
      label: 'Difference from the reference frame',
      run: () => alternate('difference'),
    },
    {
      id: 'onion',
      group: 'Look',
      label: 'Onion: the reference frame laid over',
      run: () => alternate('onion'),
    },
    {
      id: 'closer',
      group: 'Look',
      label: '400 %',
      run: () => zoom(4 / currentScale() / devicePixelRatio),
    },
    {
      id: 'crosshair',
      group: 'Look',
      label: 'Crosshair in the middle of the view, or away',
      run: toggleCrosshair,
    },
    {
      id: 'guides',
      group: 'Look',
      label: 'Guides: thirds, centre, none',
      run: () => setBench({ guides: GUIDES[(GUIDES.indexOf(bench().guides) + 1) % GUIDES.length] }),
    },
    {
      id: 'trails',
      group: 'Look',
      label: 'Trails of the spots in the steadied picture',
      run: () => setBench({ trails: !bench().trails }),
    },
    {
      id: 'curves',
      group: 'Look',
      label: 'Curves of the motion',
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

function toggleDrawing(kind: DrawnKind): void {
  const { tool } = bench();
  setBench({ tool: tool.id === 'area' && tool.kind === kind ? { id: 'mark' } : { id: 'area', kind } });
}

function nextLayout(): void {
  const { layout } = bench();
  chooseLayout(LAYOUTS[(LAYOUTS.indexOf(layout) + 1) % LAYOUTS.length]);
}

function toggleAlone(): void {
  chooseLayout(bench().layout === 'source' ? 'steadied' : 'source');
}

/** To a way of comparing, and back to both. */
function alternate(layout: Layout): void {
  chooseLayout(bench().layout === layout ? 'both' : layout);
}

function toggleCrosshair(): void {
  const { crosshair, camera, info } = bench();
  const middle =
    camera.scale === null ? { x: info.width / 2, y: info.height / 2 } : { x: camera.x, y: camera.y };
  setBench({ crosshair: crosshair ? null : middle });
}
