import { Spot } from './spot.js';
import { SoftSurface } from './soft.js';
import { Surface } from './surface.js';

/** Every kind of tracker that there is, with the class that says what it holds. */
export const TRACKERS = { spot: Spot, surface: Surface, soft: SoftSurface } as const;

export type Tracker = InstanceType<(typeof TRACKERS)[keyof typeof TRACKERS]>;

export * from './spot.js';
export * from './soft.js';
export * from './surface.js';
