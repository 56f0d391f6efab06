import { create } from 'zustand';
import {
  documentLook,
  layerById,
  maskLook,
  type DocumentLook,
  type RasterSource,
  type ShotState,
} from '@lurn/model';
import type { LookLayer } from '@lurn/core/compose';
import { bench } from './bench';
import { shotState, useShot } from './shot';

/** What layers show, and what of it cannot be had. */

let last: { readonly of: readonly unknown[]; readonly look: DocumentLook } | null = null;

/** How the shot's pictures are drawn now; the same as long as the shot and what is looked at are the same. */
export function lookNow(state = shotState()): DocumentLook {
  const { masked } = bench();
  if (last?.of[0] !== state || last.of[1] !== masked) {
    const look = documentLook(state);
    const { layers } = look.look;
    const shown = masked
      ? {
          ...look,
          look: {
            ...look.look,
            layers: layers.map((l) => (l.id === masked.layer ? maskOf(l, masked.matte, state) : l)),
          },
        }
      : look;
    last = { of: [state, masked], look: shown };
  }
  return last.look;
}

function maskOf(look: LookLayer, matte: string | null, state: ShotState): LookLayer {
  const layer = layerById(state, look.id);
  return layer ? maskLook(look, layer, matte, state) : look;
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
