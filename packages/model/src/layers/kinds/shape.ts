import { parseColour } from '@lurn/core/picture';
import { Colour, Of, OneOf } from '../../checks.js';
import { LayerBase } from '../base.js';
import { LayerOutline } from '../layer-outline.js';
import type { LayerRules } from '../layer-rules.js';
import { OUTLINED, showOutlined } from '../outlined-layer.js';

/** A plain shape of one colour. */
export class ShapeLayer extends LayerBase {
  @OneOf(['shape'])
  readonly kind!: 'shape';
  @Of(() => LayerOutline)
  readonly outline!: LayerOutline;
  @Colour()
  readonly colour!: string;
}

export const SHAPE: LayerRules<ShapeLayer> = {
  ...OUTLINED,
  drawn: {
    soften: 0,
    layer: (common, outline) => ({ ...common, kind: 'shape', colour: '#ffffff', outline }),
  },
  blends: true,
  show: (layer) => showOutlined(layer, { kind: 'plain', colour: parseColour(layer.colour) }),
};
