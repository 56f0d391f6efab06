import { newDocument, same } from '@lurn/model';
import { api } from '../lib/api';
import { bench, setBench, useBench } from './bench';
import { openShot, shotState } from './shot';

/**
 * Fetches what is known of the clip's pictures as a whole, now or when it has been read. A shot that nobody has touched
 * yet gets the goal that goes with it. @returns what ends it
 */
export function keepScene(): () => void {
  let asked = false;
  let ended = false;
  const look = async () => {
    const { clip, info, savedRevision } = bench();
    const known = clip.made?.scene;
    if (asked || !known) return;
    asked = true;
    const scene = await api.scene(clip.id).catch(() => null);
    if (ended || !scene || scene.tracks.frames !== info.frames) return;
    const state = shotState();
    const untouched = savedRevision === 0 && same(state.document, newDocument(info));
    if (untouched) openShot({ ...state, document: newDocument(info, known) });
    setBench({ scene });
  };
  const stop = useBench.subscribe((now, before) => {
    if (now.clip !== before.clip) void look();
  });
  void look();
  return () => {
    ended = true;
    stop();
  };
}
