import { bench, setBench, useBench } from './bench';
import { shotDocument } from './shot';

/** Moves the playhead at the clip's own rate while `playing`, round and round between in and out point. */
export function keepPlaying(): () => void {
  let handle = 0;
  const start = () => {
    const { times, info } = bench();
    let origin = performance.now() - times[bench().frame] * 1000;
    let expected = bench().frame;
    const tick = (now: number) => {
      if (!bench().playing) return;
      const { from, to } = shotDocument().range;
      if (bench().frame !== expected) origin = now - times[bench().frame] * 1000; // scrubbed meanwhile
      const end = to + 1 < times.length ? times[to + 1] : info.duration;
      let at = (now - origin) / 1000;
      if (at >= end || at < times[from] - 0.001) {
        origin = now - times[from] * 1000;
        at = times[from];
      }
      expected = frameAt(times, at);
      if (expected !== bench().frame) setBench({ frame: expected });
      handle = requestAnimationFrame(tick);
    };
    handle = requestAnimationFrame(tick);
  };
  const unsubscribe = useBench.subscribe((now, before) => {
    if (now.playing && !before.playing) start();
  });
  return () => {
    unsubscribe();
    cancelAnimationFrame(handle);
  };
}

/** The last frame that begins at or before a time. */
export function frameAt(times: Float64Array, seconds: number): number {
  let [low, high] = [0, times.length - 1];
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (times[middle] <= seconds + 1e-6) low = middle;
    else high = middle - 1;
  }
  return low;
}
