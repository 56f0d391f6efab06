import { Spot } from './spot.js';
import { Surface } from './surface.js';

/** Every kind of tracker that there is, with the class that says what it holds. */
export const TRACKERS = { spot: Spot, surface: Surface } as const;

export type Tracker = InstanceType<(typeof TRACKERS)[keyof typeof TRACKERS]>;

export * from './spot.js';
export * from './surface.js';
