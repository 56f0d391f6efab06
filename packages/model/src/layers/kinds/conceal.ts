import type { LookContent } from '@lurn/core/compose';
import { parseColour } from '@lurn/core/picture';
import { Colour, Of, OneOf, Within } from '../../checks.js';
import { CHOICES, LIMITS } from '../../limits.js';
import { LayerBase } from '../base.js';
import { LayerOutline } from '../layer-outline.js';
import type { LayerRules } from '../layer-rules.js';
import { OUTLINED, showOutlined } from '../outlined-layer.js';

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

export const NEW_CONCEAL = { kind: 'conceal', how: 'blur', size: 12, colour: '#000000', margin: 8 } as const;

const CONTENT: Readonly<Record<ConcealLayer['how'], (layer: ConcealLayer) => LookContent>> = {
  blur: ({ size }) => ({ kind: 'blurred', radius: size }),
  squares: ({ size }) => ({ kind: 'squares', size }),
  colour: ({ colour }) => ({ kind: 'plain', colour: parseColour(colour) }),
};

export const CONCEAL: LayerRules<ConcealLayer> = {
  ...OUTLINED,
  drawn: { soften: 6, layer: (common, outline) => ({ ...common, ...NEW_CONCEAL, outline }) },
  blends: false,
  show: (layer) => showOutlined(layer, CONTENT[layer.how](layer), layer.margin),
};
