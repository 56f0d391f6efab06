import { boxOfStrokes, type LookContent, type Stroke } from '@lurn/core/compose';
import { rectangle, type Quad } from '@lurn/core/geometry';
import { parseColour } from '@lurn/core/picture';
import { Colour, FourCorners, Frame, Hash, ListOf, Of, OneOf, OrNull, Places, Within } from '../../checks.js';
import { CHOICES, LIMITS } from '../../limits.js';
import { quadOf, type Corners4 } from '../../trackers/index.js';
import { LayerBase } from '../base.js';
import type { LayerRules, ShownContent } from '../layer-rules.js';
import { plainAsset, type RasterSource } from '../raster-source.js';

/** A graphic that strokes are cloned from: a clean plate. */
class PlateFrom {
  @Hash()
  readonly asset!: string;
  /** Where its corners lie on the painted layer's own frame. */
  @FourCorners()
  readonly corners!: Corners4;
}

/** Where a clone stroke takes its picture from. */
class CloneFrom {
  /** The frame that it is taken from; null: the layer's own. */
  @OrNull(Frame())
  readonly frame!: number | null;
  /** Pixels from the painted place to the one that is shown there. */
  @Within(LIMITS.place)
  readonly x!: number;
  @Within(LIMITS.place)
  readonly y!: number;
  /** A graphic in the picture's place; null for the picture. */
  @OrNull(Of(() => PlateFrom))
  readonly plate!: PlateFrom | null;
}

/** One stroke of a brush. */
export class PaintStroke {
  @OneOf(CHOICES.brush)
  readonly tool!: (typeof CHOICES.brush)[number];
  @Colour()
  readonly colour!: string;
  /** Diameter in pixels. */
  @Within(LIMITS.brush)
  readonly size!: number;
  @Within([0, 1])
  readonly hardness!: number;
  @Within([0, 1])
  readonly flow!: number;
  /** x, y and pressure of one place after the other. */
  @Places(LIMITS.strokePoints)
  readonly points!: readonly (readonly [number, number, number])[];
  /** Of clone strokes; null for others. */
  @OrNull(Of(() => CloneFrom))
  readonly from!: CloneFrom | null;
  /** On every frame, from a frame on, or on that one alone. */
  @OneOf(CHOICES.span)
  readonly on!: (typeof CHOICES.span)[number];
  @Frame()
  readonly frame!: number;
}

export class PaintLayer extends LayerBase {
  @OneOf(['paint'])
  readonly kind!: 'paint';
  @ListOf(() => PaintStroke, LIMITS.strokes)
  readonly strokes!: readonly PaintStroke[];
}

export const PAINT: LayerRules<PaintLayer> = {
  blends: true,
  show(layer) {
    const runs = runsOf(layer);
    return {
      content: runs.map((run) => run.shown),
      rasters: runs.flatMap((run) => run.sources),
      ...{ outline: null, middle: { x: 0, y: 0 }, margin: 0 },
    };
  },
  moved: ({ frame, strokes }, move) => ({
    strokes: strokes.map((stroke) => ({
      ...stroke,
      // A stroke that was cloned from the layer's own frame goes on being taken from that one.
      from: stroke.from && {
        ...stroke.from,
        frame: stroke.from.frame ?? frame,
        plate: stroke.from.plate && { ...stroke.from.plate, corners: stroke.from.plate.corners.map(move) },
      },
      points: stroke.points.map(([x, y, pressure]) => [...move([x, y]), pressure] as const),
    })),
  }),
  files: ({ strokes }) =>
    strokes.flatMap(({ from }, i) =>
      from?.plate ? [[`strokes[${i}].from.plate.asset`, from.plate.asset] as const] : [],
    ),
  frames: ({ strokes }) =>
    strokes.flatMap(({ frame, from }, i) => [
      [`strokes[${i}].frame`, frame] as const,
      ...(typeof from?.frame === 'number' ? [[`strokes[${i}].from.frame`, from.frame] as const] : []),
    ]),
  fault({ strokes }) {
    const i = strokes.findIndex(({ tool, from }) => tool === 'clone' && !from);
    return i < 0
      ? null
      : [`strokes[${i}].from`, 'is missing: a clone stroke takes its picture from somewhere'];
  },
};

interface Run {
  readonly sources: readonly RasterSource[];
  readonly shown: ShownContent;
}

const runs = new WeakMap<readonly PaintStroke[], readonly Run[]>();
let painted = 0;

/** Rasters finer than the picture as long as they are no larger than this. */
const FINE_BELOW = 4e6;

/** The runs of a layer's strokes that are drawn as one; erasers work on all that were painted before them. */
function runsOf({ strokes, frame }: PaintLayer): readonly Run[] {
  const known = runs.get(strokes);
  if (known) return known;
  const groups: { key: string; strokes: PaintStroke[]; first: PaintStroke }[] = [];
  for (const stroke of strokes) {
    if (stroke.tool === 'eraser') {
      for (const group of groups) group.strokes.push(stroke);
      continue;
    }
    const key = JSON.stringify([stroke.tool, stroke.from, stroke.on, stroke.on === 'all' ? 0 : stroke.frame]);
    const last = groups[groups.length - 1];
    if (last?.key === key) last.strokes.push(stroke);
    else groups.push({ key, strokes: [stroke], first: stroke });
  }
  const made = groups.flatMap((group): Run[] => {
    const plain = group.strokes.map(strokeOf);
    const box = boxOfStrokes(plain);
    if (!box) return [];
    const scale = 4 * box.width * box.height < FINE_BELOW ? 2 : 1;
    const key = `strokes ${painted++}`;
    const corners: Quad = rectangle(box.left, box.top, box.left + box.width, box.top + box.height);
    const { from, on, frame: at } = group.first;
    const content = paintedBy(from, frame, key, corners);
    const span = { from: on === 'all' ? 0 : at, to: on === 'one' ? at : Infinity };
    const middle = { x: box.left + box.width / 2, y: box.top + box.height / 2 };
    const sources: RasterSource[] = [{ kind: 'strokes', key, strokes: plain, box, scale }];
    if (from?.plate) sources.push(plainAsset(from.plate.asset));
    return [{ sources, shown: { content, span, middle } }];
  });
  runs.set(strokes, made);
  return made;
}

/** What strokes show: their colours, the picture of another place or frame, or a plate. @param key  of their raster */
function paintedBy(from: PaintStroke['from'], frame: number, key: string, corners: Quad): LookContent {
  if (!from) return { kind: 'raster', raster: key, corners };
  const { plate, x, y } = from;
  if (!plate) return { kind: 'picture', frame: from.frame ?? frame, shift: { x, y }, raster: key, corners };
  const [a, b, c, d] = quadOf(plate.corners).map((p) => ({ x: p.x - x, y: p.y - y }));
  const stencil = { raster: key, corners };
  return {
    kind: 'raster',
    raster: plainAsset(plate.asset).key,
    corners: [a, b, c, d],
    stencil,
    ofClip: true,
  };
}

function strokeOf({ tool, colour, size, hardness, flow, points }: PaintStroke): Stroke {
  return {
    tool: tool === 'eraser' ? 'eraser' : 'brush',
    ...{ colour: parseColour(colour), size, hardness, flow, points },
  };
}
