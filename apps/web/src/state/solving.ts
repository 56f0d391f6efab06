import * as Comlink from 'comlink';
import type { SteadyApi } from '../workers/steady.worker';
import { bench, setBench } from './bench';
import { shotState, useShot } from './shot';

/** Keeps `bench.steady` in step with the shot: solved in a worker, the newest state only. */
export function keepSolved(): () => void {
  const worker = new Worker(new URL('../workers/steady.worker.ts', import.meta.url), { type: 'module' });
  const api = Comlink.wrap<SteadyApi>(worker);
  let solved: unknown = null;
  let busy = false;
  const solve = async () => {
    if (busy) return;
    busy = true;
    while (solved !== shotState()) {
      const state = shotState();
      solved = state;
      const { info } = bench();
      const { spots, ref, range, use, framing } = state.document;
      const tracks = spots.filter((s) => s.used && state.tracks[s.id]).map((s) => state.tracks[s.id]);
      const { width, height, frames, pixelAspect } = info;
      const plan = await api.solve({
        size: { width, height },
        frames,
        pixelAspect,
        tracks,
        ref,
        ...range,
        use,
        framing,
      });
      setBench({ steady: plan });
    }
    busy = false;
  };
  const unsubscribe = useShot.subscribe(() => void solve());
  void solve();
  return () => {
    unsubscribe();
    worker.terminate();
  };
}
