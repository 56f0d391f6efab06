import { Of, OneOf, OrNull, Within } from '../../checks.js';
import { LayerBase } from '../base.js';
import { LayerOutline } from '../layer-outline.js';
import { PickedRange, rangeOf } from '../picked-range.js';
import type { LayerRules } from '../layer-rules.js';
import { OUTLINED, showOutlined } from '../outlined-layer.js';

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

export const NEW_TINT = {
  kind: 'tint',
  hue: 0,
  saturation: 1,
  lightness: 0,
  exposure: 0,
  colours: null,
} as const;

const coloursOf = ({ colours }: TintLayer) => colours && rangeOf(colours);

export const TINT: LayerRules<TintLayer> = {
  ...OUTLINED,
  drawn: { soften: 6, layer: (common, outline) => ({ ...common, ...NEW_TINT, hue: 120, outline }) },
  blends: false,
  show(layer) {
    const { saturation, lightness, exposure } = layer;
    const hue = (layer.hue * Math.PI) / 180;
    const tint = { hue, saturation, lightness, exposure, range: coloursOf(layer) };
    return showOutlined(layer, { kind: 'tinted', tint });
  },
  colours: coloursOf,
};
