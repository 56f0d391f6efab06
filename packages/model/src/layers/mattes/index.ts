import { AREA_MATTE, AreaMatte } from './area.js';
import { COLOUR_MATTE, ColourMatte } from './colour.js';
import { MASK_MATTE, MaskMatte } from './mask.js';
import type { MatteRules } from './matte-rules.js';
import { PASSING_MATTE, PassingMatte } from './passing.js';

/** Every kind of matte that there is, with the class that says what it holds. */
export const MATTES = {
  area: AreaMatte,
  colour: ColourMatte,
  mask: MaskMatte,
  passing: PassingMatte,
} as const;

export type LayerMatte = InstanceType<(typeof MATTES)[keyof typeof MATTES]>;

const RULES: { readonly [K in LayerMatte['kind']]: MatteRules<Extract<LayerMatte, { kind: K }>> } = {
  area: AREA_MATTE,
  colour: COLOUR_MATTE,
  mask: MASK_MATTE,
  passing: PASSING_MATTE,
};

/** What a document asks of a matte, by its kind. */
export const matteRules = ({ kind }: Pick<LayerMatte, 'kind'>) => RULES[kind] as MatteRules<LayerMatte>;
