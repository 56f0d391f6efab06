import { outlineOf, type Point } from '@lurn/core/geometry';
import { drawArea } from '../../../state/areas';
import { setBench, type DrawnKind } from '../../../state/bench';
import { drawForLayer } from '../../../state/making-layers';
import { addHole, drawSoft } from '../../../state/soft/soft';
import { addOutline, drawSurface } from '../../../state/surfaces';

/** What a drawn shape becomes. */
interface Drawing {
  /** What is drawn round, as the tool says it. */
  readonly what: string;
  finish(corners: readonly Point[], smooth: boolean): void;
  /** Layers are drawn on either picture. */
  readonly forLayer?: boolean;
}

/** Of more corners the straight lines are smooth enough. */
const MOST_SMOOTH = 20;

/** It stays on the picture until it is said what goes together. */
function showDrawn(corners: readonly Point[], smooth: boolean): void {
  const drawing = smooth && corners.length < MOST_SMOOTH ? outlineOf(corners, true) : corners;
  setBench({ drawing, drawn: true });
}

const area = (kind: 'ignore' | 'focus', what: string): Drawing => ({
  what,
  finish: (corners, smooth) => drawArea(kind, corners, smooth),
});

const layer = (kind: Parameters<typeof drawForLayer>[0], what: string): Drawing => ({
  what,
  finish: (corners, smooth) => drawForLayer(kind, corners, smooth),
  forLayer: true,
});

const DRAWINGS: Readonly<Record<DrawnKind, Drawing>> = {
  ignore: area('ignore', 'what should not be measured'),
  focus: area('focus', 'what alone should be measured'),
  regroup: { what: 'what moves together', finish: showDrawn },
  surface: { what: 'a flat surface: loosely is enough', finish: drawSurface },
  soft: { what: 'cloth, skin, a leaf: whatever bends, loosely', finish: drawSoft },
  hole: { what: 'a hole in the mesh: an eye, a button', finish: addHole },
  more: {
    what: 'what belongs to the surface as well',
    finish: (corners, smooth) => addOutline('focus', corners, smooth),
  },
  less: {
    what: 'what does not belong to the surface',
    finish: (corners, smooth) => addOutline('ignore', corners, smooth),
  },
  shape: layer('shape', 'the shape'),
  conceal: layer('conceal', 'what is to be concealed'),
  tint: layer('tint', 'what is to be tinted'),
  inside: layer('inside', 'where alone the layer is to be seen'),
  'in-front': layer('in-front', 'what stays in front of the layer'),
};

export const drawingOf = (kind: DrawnKind): Drawing => DRAWINGS[kind];
