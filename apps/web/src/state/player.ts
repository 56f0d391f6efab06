import { bisectRight } from 'd3-array';
import { bench, setBench, useBench } from './bench';
import { shotDocument } from './shot';

/** How fast J and L may be made to play, times the clip's rate. */
const FASTEST = 8;

/** Plays on in a direction: at the clip's rate, and with each press twice as fast. */
export function shuttle(direction: 1 | -1): void {
  const { playing, speed } = bench();
  const going = playing && Math.sign(speed) === direction;
  setBench({
    playing: true,
    speed: going ? Math.sign(speed) * Math.min(FASTEST, 2 * Math.abs(speed)) : direction,
  });
}

/** Plays at the clip's rate, or stops. */
export function playOrStop(): void {
  setBench({ playing: !bench().playing, speed: 1 });
}

/** Frames by which the picture may fall behind the playhead before that waits for it. */
export const MOST_BEHIND = 8;

/**
 * Moves the playhead at the clip's own rate times `speed` while `playing`, round and round between in and out point. At
 * the clip's rate it waits for a picture that has fallen far behind: every frame is seen, though late, where they cannot
 * be decoded in time. Faster, pictures are left out.
 */
export function keepPlaying(): () => void {
  let handle = 0;
  const start = () => {
    const { times, info, speed } = bench();
    let began = performance.now();
    let origin = times[bench().frame];
    let expected = bench().frame;
    const again = (at: number, now: number) => {
      origin = at;
      began = now;
    };
    const tick = (now: number) => {
      if (!bench().playing || bench().speed !== speed) return;
      const { from, to } = shotDocument().range;
      if (Math.abs(speed) === 1 && isBehind(speed, from, to)) {
        again(times[bench().frame], now);
        handle = requestAnimationFrame(tick);
        return;
      }
      if (bench().frame !== expected) again(times[bench().frame], now); // scrubbed meanwhile
      const end = to + 1 < times.length ? times[to + 1] : info.duration;
      let at = origin + (speed * (now - began)) / 1000;
      if (at >= end || at < times[from] - 0.001) {
        at = speed > 0 ? times[from] : times[to];
        again(at, now);
      }
      expected = frameAt(times, at);
      if (expected !== bench().frame) setBench({ frame: expected });
      handle = requestAnimationFrame(tick);
    };
    cancelAnimationFrame(handle);
    handle = requestAnimationFrame(tick);
  };
  const unsubscribe = useBench.subscribe((now, before) => {
    if (now.playing && (!before.playing || now.speed !== before.speed)) start();
  });
  return () => {
    unsubscribe();
    cancelAnimationFrame(handle);
  };
}

function isBehind(direction: number, from: number, to: number): boolean {
  const { frame, shown } = bench();
  const ahead = direction * (frame - shown);
  // The picture may still be before the turn.
  return (ahead >= 0 ? ahead : direction > 0 ? frame - from : to - frame) > MOST_BEHIND;
}

/** The last frame that begins at or before a time. */
export function frameAt(times: Float64Array, seconds: number): number {
  return Math.max(0, bisectRight(times, seconds + 1e-6) - 1);
}
