import { sampleAt } from '@lurn/core/track';
import { trackOf } from '@lurn/model';
import { bench, setBench, useBench } from './bench';
import { shotState } from './shot';

/** Keeps the selected spot in the middle of the view while following is on and the view is zoomed in. */
export function keepFollowing(): () => void {
  return useBench.subscribe((now, before) => {
    if (!now.follow || now.camera.scale === null || now.magnifier) return;
    if (now.frame === before.frame && now.selected === before.selected && now.follow === before.follow)
      return;
    const track = trackOf(shotState(), now.selected[0]);
    const sample = sampleAt(track, bench().frame);
    if (sample) setBench({ camera: { ...now.camera, x: sample.x, y: sample.y } });
  });
}
