import type { Matrix3 } from '../geometry/matrix.js';
import type { Warp } from '../geometry/warp.js';
import type { RowOfColours } from './layer-grid.js';
import {
  DIFFERENCE_MATTE,
  type DifferenceLook,
  type DifferenceMatte,
} from './mattes/kinds/difference-matte.js';
import { KEY_MATTE, type KeyMatte } from './mattes/kinds/key-matte.js';
import { MASK_MATTE, type MaskLook, type MaskMatte } from './mattes/kinds/mask-matte.js';
import { OUTLINE_MATTE, type OutlineLook, type OutlineMatte } from './mattes/kinds/outline-matte.js';
import type { Ask, MatteGround, MatteKind } from './mattes/matte-kind.js';
import type { Riding, Seen } from './seen.js';

/** What a layer is limited to, as a document has it. */
export type LookMatte = OutlineLook | KeyMatte | DifferenceLook | MaskLook;

/** The same as it is seen on a frame. */
export type SceneMatte = OutlineMatte | KeyMatte | DifferenceMatte | MaskMatte;

type Of<T, K> = Extract<T, { readonly kind: K }>;

const MATTES: { readonly [K in SceneMatte['kind']]: MatteKind<Of<LookMatte, K>, Of<SceneMatte, K>> } = {
  outline: OUTLINE_MATTE,
  key: KEY_MATTE,
  difference: DIFFERENCE_MATTE,
  mask: MASK_MATTE,
};

const kindOf = ({ kind }: LookMatte | SceneMatte) => MATTES[kind] as MatteKind<LookMatte, SceneMatte>;

/** All have to let a layer through; of those in one list, any. */
export type MatteLists = readonly (readonly SceneMatte[])[];

export const shownMatte = (matte: LookMatte, on: Riding, seen: Seen): SceneMatte | null =>
  kindOf(matte).shown(matte, on, seen);

export const matteThrough = (matte: SceneMatte, first: Matrix3, both: (warp: Warp) => Warp): SceneMatte =>
  kindOf(matte).through(matte, first, both);

/** The other frames whose pictures mattes look at. */
export const framesOfMattes = (mattes: MatteLists): number[] =>
  mattes.flat().flatMap((m) => kindOf(m).frame?.(m) ?? []);

/** The keys of the rasters that mattes look at. */
export const rastersOfMattes = (mattes: MatteLists): string[] =>
  mattes.flat().flatMap((m) => kindOf(m).raster?.(m) || []);

/** True when colours of the picture have to be read. */
export const isKeyed = (mattes: MatteLists): boolean => mattes.flat().some((m) => kindOf(m).keyed);

/** What lets a layer through, on one grid. */
export class Mattes {
  private readonly asks: readonly (readonly Ask[])[];
  private readonly one: Float64Array;
  private readonly closed: Float64Array;

  constructor(mattes: MatteLists, ground: MatteGround) {
    this.one = new Float64Array(Math.max(0, ground.box.x1 - ground.box.x0));
    this.closed = new Float64Array(this.one.length);
    this.asks = mattes.map((list) => list.map((m) => kindOf(m).ask(m, ground)));
  }

  /** Multiplies shares of a row by what every list lets through; in a list, whatever one lets through goes. */
  apply(row: number, colours: RowOfColours | null, shares: Float64Array): void {
    const { one, closed } = this;
    for (const list of this.asks) {
      if (list.length === 1) {
        list[0](row, colours, one);
        for (let i = 0; i < one.length; i++) shares[i] *= one[i];
      } else if (list.length > 1) {
        closed.fill(1);
        for (const ask of list) {
          ask(row, colours, one);
          for (let i = 0; i < one.length; i++) closed[i] *= 1 - one[i];
        }
        for (let i = 0; i < one.length; i++) shares[i] *= 1 - closed[i];
      }
    }
  }
}
