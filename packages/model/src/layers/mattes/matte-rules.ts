import type { LookMatte, Ride } from '@lurn/core/compose';
import type { Asset } from '../asset.js';
import type { LayerOutline } from '../layer-outline.js';
import type { Rides } from '../rides.js';

/** What a document asks of each kind of matte, besides what its class says of its fields. */
export interface MatteRules<M> {
  /** The frame that it names. */
  frame?(matte: M): number;
  /** What was drawn, and what that rides on. */
  drawn?(matte: M): { readonly outline: LayerOutline; readonly rides: Rides };
  /** The films of masks that it shows, by their hashes. */
  files?(matte: M): readonly string[];
  look(matte: M, rideOf: (rides: Rides) => Ride, assets: readonly Asset[]): LookMatte;
}
