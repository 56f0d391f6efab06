import { isInside } from '../geometry/area.js';
import type { Point } from '../geometry/matrix.js';
import { factsOf } from '../scene/mover-facts.js';
import type { SceneMover } from '../scene/movers.js';
import { partsOf, sampleIndex, type SceneTracks } from '../scene/scene-tracks.js';
import { Remembered } from '../remembered.js';
import type { AnalysedScene } from './analysed.js';
import { sceneMotion } from './scene-motion.js';

/** What an editor says of features: those inside a shape on a frame go with a mover. */
export interface Regroup {
  readonly frame: number;
  /** Corners in source pixels. */
  readonly shape: readonly (readonly [number, number])[];
  /** The mover's id; one that the scene does not have becomes a mover of its own. */
  readonly to: string;
}

const known = new Remembered<AnalysedScene, string, AnalysedScene>();

/**
 * A scene with features put on other movers than were found, one word after the other; the motions of movers that lost
 * or gained some are solved anew. Movers keep their places in the list, also when nothing is left of them. The last
 * answer for every scene is kept.
 */
export function regrouped(scene: AnalysedScene, words: readonly Regroup[]): AnalysedScene {
  if (words.length === 0) return scene;
  return known.get(scene, JSON.stringify(words), () => withWords(scene, words));
}

function withWords(scene: AnalysedScene, words: readonly Regroup[]): AnalysedScene {
  const { tracks, size } = scene;
  const moverOf = scene.moverOf.slice();
  const movers: SceneMover[] = [...scene.movers];
  const changed = new Set<number>();
  for (const { frame, shape, to } of words) {
    const outline = shape.map(([x, y]): Point => ({ x, y }));
    let place = movers.findIndex((m) => m.id === to);
    if (place < 0) {
      place = movers.length;
      const name = `mover ${place + 1}`;
      movers.push({ id: to, name, share: 0, spread: 0, rim: 0, frames: 0, overlay: false });
    }
    for (let k = 0; k < moverOf.length; k++) {
      const at = sampleIndex(tracks, k, frame);
      if (at < 0 || moverOf[k] === place || !isInside(outline, { x: tracks.x[at], y: tracks.y[at] }))
        continue;
      if (moverOf[k] >= 0) changed.add(moverOf[k]);
      changed.add(place);
      moverOf[k] = place;
    }
  }
  const all = samplesOf(tracks, Array.from(moverOf.keys())) || 1;
  const told = movers.map((mover, m): SceneMover => {
    if (!changed.has(m)) return mover;
    const own = Array.from(moverOf.keys()).filter((k) => moverOf[k] === m);
    const facts = partsOf(tracks).map(({ from, to }) => factsOf(tracks, own, from, to, size));
    const frames = facts.reduce((s, f) => s + f.frames, 0);
    const mean = (of: 'spread' | 'rim') =>
      facts.reduce((s, f) => s + f[of] * f.frames, 0) / Math.max(1, frames);
    return {
      ...mover,
      share: samplesOf(tracks, own) / all,
      spread: mean('spread'),
      rim: mean('rim'),
      frames,
    };
  });
  const next = { ...scene, movers: told, moverOf };
  const motions = told.map((_, m) =>
    changed.has(m) || m >= scene.motions.length ? sceneMotion(next, m, 0, size) : scene.motions[m],
  );
  return { ...next, motions };
}

function samplesOf({ first, confidence }: SceneTracks, members: readonly number[]): number {
  let n = 0;
  for (const k of members) for (let at = first[k]; at < first[k + 1]; at++) if (confidence[at] > 0) n++;
  return n;
}
