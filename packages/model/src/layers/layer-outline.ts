import type { AreaKey } from '@lurn/core/geometry';
import { DrawnKey } from '../area.js';
import { Flag, ListOf, Within } from '../checks.js';
import { LIMITS } from '../limits.js';

/** A closed shape, keyed over time, in places of one frame whatever frames its keys are on. */
export class LayerOutline {
  @Flag()
  readonly smooth!: boolean;
  @ListOf(() => DrawnKey, LIMITS.areaKeys)
  readonly keys!: readonly AreaKey[];
  /** Pixels that it is made larger by. */
  @Within(LIMITS.grow)
  readonly grow!: number;
  /** Pixels over which its edge fades. */
  @Within(LIMITS.fade)
  readonly soften!: number;
}
