import { FourCorners, Frame, Hash, OneOf, Within } from '../../checks.js';
import { CHOICES, LIMITS } from '../../limits.js';
import { quadOf, type Corners4 } from '../../trackers/index.js';
import { LayerBase } from '../base.js';
import type { LayerRules } from '../layer-rules.js';
import { PLACED, showPlaced } from '../placed-layer.js';
import { filmSource } from '../raster-source.js';

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

export const CLIP: LayerRules<ClipLayer> = {
  ...PLACED,
  show(layer, assets) {
    const { asset: hash, first, rate, play } = layer;
    const source = filmSource(assets.find((a) => a.hash === hash)!);
    const corners = quadOf(layer.corners);
    const { key: film, frames } = source;
    return showPlaced(layer, source, { kind: 'film', film, corners, first, rate, play, frames });
  },
  files: ({ asset }) => [['asset', asset]],
};
