import { rangeShare, type ColourRange } from '../../colour-range.js';
import type { MatteKind } from '../matte-kind.js';

/** The colours that are let through. */
export interface KeyMatte {
  readonly kind: 'key';
  readonly range: ColourRange;
  /** True: the layer is shown beyond it, and not inside. */
  readonly outside: boolean;
}

export const KEY_MATTE: MatteKind<KeyMatte, KeyMatte> = {
  keyed: true,
  shown: (matte) => matte,
  through: (matte) => matte,
  ask({ range, outside }, { coding }) {
    const rgb = new Float64Array(3);
    return (_, colours, out) => {
      for (let i = 0; i < out.length; i++) {
        coding.toRgb(colours!.y[i], colours!.u[i], colours!.v[i], rgb);
        const share = rangeShare(range, rgb, coding.kr, coding.kb);
        out[i] = outside ? 1 - share : share;
      }
    };
  },
};
