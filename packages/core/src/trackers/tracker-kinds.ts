import type { MeasuredKind } from '../track/measured.js';
import { SOFT_KIND } from './kinds/soft-kind.js';
import { SPOT_KIND } from './kinds/spot-kind.js';
import { SURFACE_KIND } from './kinds/surface-kind.js';
import type { TrackerKind } from './tracker-kind.js';

const KINDS: { readonly [K in MeasuredKind]: TrackerKind<K> } = {
  spot: SPOT_KIND,
  surface: SURFACE_KIND,
  soft: SOFT_KIND,
};

/** A kind of tracker by its name. */
export const trackerKind = <K extends MeasuredKind>(kind: K): TrackerKind<K> => KINDS[kind];
