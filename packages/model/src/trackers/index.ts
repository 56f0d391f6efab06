import { Spot, SPOT_RULES } from './kinds/spot.js';
import { SOFT_RULES, SoftSurface } from './kinds/soft.js';
import { Surface, SURFACE_RULES } from './kinds/surface.js';
import type { TrackerRules } from './tracker-rules.js';

/** Every kind of tracker that there is, with the class that says what it holds. */
export const TRACKERS = { spot: Spot, surface: Surface, soft: SoftSurface } as const;

export type Tracker = InstanceType<(typeof TRACKERS)[keyof typeof TRACKERS]>;

/** A tracker of a kind. */
export type TrackerOf<K extends Tracker['kind']> = Extract<Tracker, { readonly kind: K }>;

/** A surface, flat or soft: each is a mover of its own. */
export type AnySurface = Exclude<Tracker, Spot>;

const RULES: { readonly [K in Tracker['kind']]: TrackerRules<K, TrackerOf<K>> } = {
  spot: SPOT_RULES,
  surface: SURFACE_RULES,
  soft: SOFT_RULES,
};

/** What a document asks of a tracker's kind. */
export const rulesOf = <K extends Tracker['kind']>({
  kind,
}: {
  readonly kind: K;
}): TrackerRules<K, TrackerOf<K>> => RULES[kind];

export type { Fault } from './tracker-rules.js';
export * from './base.js';
export * from './kinds/spot.js';
export * from './kinds/soft.js';
export * from './kinds/surface.js';
