import { Spot } from './spot.js';

/** Every kind of tracker that there is, with the class that says what it holds. */
export const TRACKERS = { spot: Spot } as const;

export type Tracker = InstanceType<(typeof TRACKERS)[keyof typeof TRACKERS]>;

export * from './spot.js';
