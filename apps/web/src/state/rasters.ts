import { create } from 'zustand';
import { documentLook, type DocumentLook, type RasterSource, type ShotState } from '@lurn/model';
import { shotState, useShot } from './shot';

/** What layers show, and what of it cannot be had. */

let last: { readonly state: ShotState; readonly look: DocumentLook } | null = null;

/** How the shot's pictures are drawn now; the same as long as the shot is the same. */
export function lookNow(state = shotState()): DocumentLook {
  if (last?.state !== state) last = { state, look: documentLook(state) };
  return last.look;
}

interface RasterFaults {
  /** Why, by the rasters' keys. */
  readonly faults: Readonly<Record<string, string>>;
}

export const useRasterFaults = create<RasterFaults>()(() => ({ faults: {} }));

export function rasterFailed(key: string, message: string): void {
  useRasterFaults.setState(({ faults }) => ({ faults: { ...faults, [key]: message } }));
}

/** Tells what is wanted, now and whenever that changes. @returns how to end it */
export function followRasters(tell: (sources: readonly RasterSource[]) => void): () => void {
  let told = '';
  const follow = (state: ShotState) => {
    const { rasters } = lookNow(state);
    const keys = rasters.map((r) => r.key).join('\n');
    if (keys === told) return;
    told = keys;
    useRasterFaults.setState({ faults: {} });
    tell(rasters);
  };
  follow(shotState());
  return useShot.subscribe(({ state }) => follow(state));
}
