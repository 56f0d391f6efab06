import { FourCorners, Hash, Of, OneOf } from '../../checks.js';
import type { Corners4 } from '../../trackers/index.js';
import { LayerBase } from '../base.js';
import type { LayerRules } from '../layer-rules.js';
import { edgeOf, EdgeSettings, PLACED, placedRaster, showPlaced } from '../placed-layer.js';

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

export const GRAPHIC: LayerRules<GraphicLayer> = {
  ...PLACED,
  show(layer, assets) {
    const { asset: hash, edge, corners } = layer;
    const { side, key } = edgeOf(layer);
    const source = { kind: 'asset', key: `asset ${hash}${key}`, hash, edge, side } as const;
    const ofClip = assets.find((a) => a.hash === hash)?.ofClip;
    return showPlaced(layer, source, placedRaster(corners, source.key, ofClip));
  },
  files: ({ asset }) => [['asset', asset]],
};
