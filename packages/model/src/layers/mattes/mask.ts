import { filmKey } from '@lurn/core/compose';
import { Flag, Frame, Hash, Id, OneOf, Text, Within } from '../../checks.js';
import { LIMITS } from '../../limits.js';
import type { MatteRules } from './matte-rules.js';

/** Limits a layer by a film of masks, or keeps what is in them in front. */
export class MaskMatte {
  @OneOf(['mask'])
  readonly kind!: 'mask';
  @Id()
  readonly id!: string;
  @Text(LIMITS.nameLength)
  readonly name!: string;
  /** The hash of the film: white where something is. */
  @Hash()
  readonly asset!: string;
  /** The shot's frame that its first one is of. */
  @Frame()
  readonly from!: number;
  /** Its samples per pixel of the upright picture. */
  @Within(LIMITS.maskScale)
  readonly scale!: number;
  @Flag()
  readonly outside!: boolean;
}

export const MASK_MATTE: MatteRules<MaskMatte> = {
  frame: ({ from }) => from,
  files: ({ asset }) => [asset],
  look: ({ asset, from, scale, outside }, _, assets) => {
    const { frames } = assets.find((a) => a.hash === asset)!;
    return { kind: 'mask', film: filmKey(asset), ...{ from, frames, scale, outside } };
  },
};
