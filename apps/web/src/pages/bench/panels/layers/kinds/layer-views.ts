import { GRAPHIC_VIEW } from './graphic';
import { CLIP_VIEW } from './clip';
import { TEXT_VIEW } from './text';
import { SHAPE_VIEW } from './shape';
import { PAINT_VIEW } from './paint';
import { CONCEAL_VIEW } from './conceal';
import { TINT_VIEW } from './tint';
import type { Layer, LayerKind } from '@lurn/model';
import type { LayerView } from './layer-view';

/** Every kind of layer as it is shown, in the order of their buttons. */
export const LAYER_VIEWS: { readonly [K in LayerKind]: LayerView<Extract<Layer, { kind: K }>> } = {
  graphic: GRAPHIC_VIEW,
  text: TEXT_VIEW,
  shape: SHAPE_VIEW,
  paint: PAINT_VIEW,
  conceal: CONCEAL_VIEW,
  tint: TINT_VIEW,
  clip: CLIP_VIEW,
};

export const layerView = ({ kind }: Pick<Layer, 'kind'>) => LAYER_VIEWS[kind] as LayerView<Layer>;
