/** How a layer's colour meets that of what lies under it. */
export type Blend = 'normal' | 'multiply' | 'screen' | 'overlay' | 'softLight' | 'add';

/** One channel of what lies under and of the layer, both 0 to 1, as one. */
export type Mix = (under: number, over: number) => number;

/**
 * The separable blend functions of the W3C's "Compositing and Blending Level 1" (2024, section 10.1); `add` is its
 * `plus-lighter` of opaque colours.
 */
export const MIXES: Readonly<Record<Blend, Mix>> = {
  normal: (_, over) => over,
  multiply: (under, over) => under * over,
  screen: (under, over) => under + over - under * over,
  overlay: (under, over) => hardLight(over, under),
  softLight: (under, over) =>
    over <= 0.5
      ? under - (1 - 2 * over) * under * (1 - under)
      : under + (2 * over - 1) * (softened(under) - under),
  add: (under, over) => Math.min(1, under + over),
};

function hardLight(under: number, over: number): number {
  return over <= 0.5 ? 2 * under * over : MIXES.screen(under, 2 * over - 1);
}

function softened(v: number): number {
  return v <= 0.25 ? ((16 * v - 12) * v + 4) * v : Math.sqrt(v);
}
