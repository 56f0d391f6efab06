import { toast } from 'sonner';
import { useMemo } from 'react';
import type { Point } from '@lurn/core/geometry';
import { againstHeld, type AgainstHeld } from '@lurn/core/plan';
import { regrouped, type AnalysedScene } from '@lurn/core/solve';
import { addRegroup, holdMover, newDocument, same } from '@lurn/model';
import { api, messageOf } from '../lib/api';
import { capital } from '../lib/format';
import { moverAt } from '../lib/movers';
import { bench, setBench, useBench } from './bench';
import { edit, openShot, shotDocument, shotState, useShot } from './shot';
import { showsAt } from './stations';

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
    const scene = await api.scene(clip.id).catch((error: unknown) => {
      // Asked for again with the next that is heard of the clip.
      asked = false;
      if (!ended) toast.error(`The clip is shown as shot for now. ${messageOf(error)}`, { id: 'scene' });
      return null;
    });
    if (ended || !scene || scene.tracks.frames !== info.frames) return;
    const state = shotState();
    const untouched = savedRevision === 0 && same(state.document, newDocument(info));
    if (untouched) openShot({ ...state, document: newDocument(info, known) });
    setBench({ scene, ...(untouched || isNew(state.document) ? { station: 'steady' as const } : {}) });
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

/** Nothing has been marked: what is to be seen first is how it stands already. */
const isNew = ({ trackers }: { readonly trackers: readonly unknown[] }) =>
  trackers.length === 0 && showsAt(bench().station).places === true;

/** The scene as the editor has put it right; null while nothing is known of it. */
export function sceneNow(): AnalysedScene | null {
  const { scene } = bench();
  return scene && regrouped(scene, shotDocument().regroups);
}

/** The same, as it changes. */
export function useScene(): AnalysedScene | null {
  const scene = useBench((s) => s.scene);
  const regroups = useShot((s) => s.state.document.regroups);
  return useMemo(() => scene && regrouped(scene, regroups), [scene, regroups]);
}

/** What moves by less than this, in pixels, goes with what is held. */
const WITH_IT = 0.5;

/** The movers that still move in the steadied picture, by how far, with their way over the range. */
export function useAgainstHeld(): AgainstHeld[] {
  const scene = useScene();
  const steady = useBench((s) => s.steady);
  const { held, range } = useShot((s) => s.state.document);
  return useMemo(() => {
    if (!scene || !steady) return [];
    // Spots may hold any of them: that one hardly moves then.
    const own = held === null && steady.of.length > 0 ? -1 : heldPlace(scene, held ?? steady.mover);
    return againstHeld(scene, steady.corrections, own, range.from, range.to).filter((m) => m.rms > WITH_IT);
  }, [scene, steady, held, range]);
}

/** Puts the features inside what was drawn on a mover; null for one of their own. */
export function regroup(to: string | null): void {
  const { drawing, frame } = bench();
  if (drawing.length < 3) return;
  const round = (v: number) => Math.round(v * 100) / 100;
  const shape = drawing.map(({ x, y }) => [round(x), round(y)] as const);
  edit((s) => addRegroup(s, { frame, shape }, to));
  setBench({ drawing: [], drawn: false });
}

/** The place in the scene's list of what is held; -1 where that is none of its movers. */
export function heldPlace({ movers }: Pick<AnalysedScene, 'movers'>, held: string | null): number {
  return held === null ? 0 : movers.findIndex((m) => m.id === held);
}

/** Holds what is at a place of a frame. @returns false where nothing is known to move there */
export function holdAt(at: Point, frame: number): boolean {
  const scene = sceneNow();
  const { masks } = bench();
  const made = masks?.scene === scene && masks?.frame === frame ? masks.of : null;
  const place = scene ? moverAt(scene, frame, at, made) : -1;
  if (!scene || place < 0) {
    toast.info('Nothing that moves as one was found there. Press on a part of the picture that is tinted.');
    return false;
  }
  const mover = scene.movers[place];
  // The surroundings are what is held where nothing else is said.
  edit((s) => holdMover(s, place === 0 ? null : mover.id, mover));
  toast.success(`${capital(mover.name)} held.`, { id: 'held' });
  return true;
}
