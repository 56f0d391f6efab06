import {
  Colour,
  Flag,
  FourCorners,
  Frame,
  Hash,
  Label,
  ListOf,
  Of,
  OneOf,
  Optional,
  OrNull,
  Places,
  Text,
  Within,
} from '../checks.js';
import { CHOICES, LIMITS } from '../limits.js';
import type { Corners4 } from '../trackers/index.js';
import { LayerBase, LayerOutline, PickedRange } from './base.js';

/** How the edge of a raster's own shape runs, in pixels of its frame. */
export class EdgeSettings {
  @Within(LIMITS.grow)
  readonly grow!: number;
  @Within(LIMITS.fade)
  readonly soften!: number;
  @Within(LIMITS.fade)
  readonly blur!: number;
}

/** A picture from a file. */
export class GraphicLayer extends LayerBase {
  @OneOf(['graphic'])
  readonly kind!: 'graphic';
  /** The hash of its file. */
  @Hash()
  readonly asset!: string;
  /** Where its four corners lie. */
  @FourCorners()
  readonly corners!: Corners4;
  @Of(() => EdgeSettings)
  readonly edge!: EdgeSettings;
}

/** A film from a file: for a screen, a sign, a window. */
export class ClipLayer extends LayerBase {
  @OneOf(['clip'])
  readonly kind!: 'clip';
  /** The hash of its file. */
  @Hash()
  readonly asset!: string;
  @FourCorners()
  readonly corners!: Corners4;
  /** In step with the shot as long as it lasts, round and round, or standing. */
  @OneOf(CHOICES.play)
  readonly play!: (typeof CHOICES.play)[number];
  /** Its frame that is seen on the layer's own frame. */
  @Frame()
  readonly first!: number;
  /** Its frames for one of the shot. */
  @Within(LIMITS.filmStep)
  readonly rate!: number;
}

/** How a text looks. */
export class TextStyle {
  @OneOf(CHOICES.font)
  readonly font!: (typeof CHOICES.font)[number];
  @OneOf(CHOICES.weight)
  readonly weight!: (typeof CHOICES.weight)[number];
  @Colour()
  readonly colour!: string;
  @OneOf(CHOICES.align)
  readonly align!: (typeof CHOICES.align)[number];
  /** Width of the line round its letters, a share of their size; 0: none. */
  @Within([0, 0.5])
  readonly outline!: number;
  @Colour()
  readonly outlineColour!: string;
}

export class TextLayer extends LayerBase {
  @OneOf(['text'])
  readonly kind!: 'text';
  @Label(LIMITS.text)
  readonly text!: string;
  @Of(() => TextStyle)
  readonly style!: TextStyle;
  @FourCorners()
  readonly corners!: Corners4;
  @Of(() => EdgeSettings)
  readonly edge!: EdgeSettings;
}

/** A plain shape of one colour. */
export class ShapeLayer extends LayerBase {
  @OneOf(['shape'])
  readonly kind!: 'shape';
  @Of(() => LayerOutline)
  readonly outline!: LayerOutline;
  @Colour()
  readonly colour!: string;
}

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

/** Makes what is under it unreadable. */
export class ConcealLayer extends LayerBase {
  @OneOf(['conceal'])
  readonly kind!: 'conceal';
  @Of(() => LayerOutline)
  readonly outline!: LayerOutline;
  @OneOf(CHOICES.conceal)
  readonly how!: (typeof CHOICES.conceal)[number];
  /** Radius of the blur, or side of the squares, in pixels. */
  @Within(LIMITS.conceal)
  readonly size!: number;
  @Colour()
  readonly colour!: string;
  /** Pixels by which it grows at most where its ride is less sure. */
  @Within(LIMITS.fade)
  readonly margin!: number;
}

/** Gives what is under it other colours. */
export class TintLayer extends LayerBase {
  @OneOf(['tint'])
  readonly kind!: 'tint';
  /** Where; null: all over. */
  @OrNull(Of(() => LayerOutline))
  readonly outline!: LayerOutline | null;
  /** Degrees. */
  @Within([-180, 180])
  readonly hue!: number;
  @Within([0, 4])
  readonly saturation!: number;
  @Within([-1, 1])
  readonly lightness!: number;
  /** Stops. */
  @Within([-6, 6])
  readonly exposure!: number;
  /** The colours that are changed; null: all. */
  @OrNull(Of(() => PickedRange))
  readonly colours!: PickedRange | null;
}

/** A file that layers show, kept with the shot. */
export class Asset {
  /** SHA-256 of the file, in hexadecimal digits. */
  @Hash()
  readonly hash!: string;
  @Text(LIMITS.assetName)
  readonly name!: string;
  @Within(LIMITS.assetSide)
  readonly width!: number;
  @Within(LIMITS.assetSide)
  readonly height!: number;
  @Within([0, LIMITS.assetBytes])
  readonly bytes!: number;
  /** Pictures in it: 1 of a graphic; of a film as many as it has, and how many a second. */
  @Within(LIMITS.filmFrames)
  readonly frames!: number;
  @Within(LIMITS.filmRate)
  readonly fps!: number;
  /** True where its colours are codes of the shot's own clip, as a clean plate's are. */
  @Optional()
  @Flag()
  readonly ofClip?: boolean;
  /** True for a drawing that is sharp at any size. */
  @Flag()
  readonly vector!: boolean;
}
