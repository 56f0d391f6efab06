import { FourCorners, Label, Of, OneOf } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import type { Corners4 } from '../../trackers/index.js';
import { LayerBase } from '../base.js';
import type { LayerRules } from '../layer-rules.js';
import { edgeOf, EdgeSettings, PLACED, placedRaster, showPlaced } from '../placed-layer.js';
import { TextStyle } from '../text-style.js';

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

export const TEXT: LayerRules<TextLayer> = {
  ...PLACED,
  show(layer) {
    const { text, style, edge, corners } = layer;
    const { side, key } = edgeOf(layer);
    const source = {
      kind: 'text',
      key: `text ${JSON.stringify([text, style])}${key}`,
      text,
      style,
      edge,
      side,
    } as const;
    return showPlaced(layer, source, placedRaster(corners, source.key));
  },
  files: () => [],
};
