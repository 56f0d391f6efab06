import { LurnError } from '@lurn/core';
import { faultOfKeys } from './area.js';
import { checked, whyNotWithin } from './checks.js';
import { ShotDocument, type ClipBounds } from './document.js';
import { migrate } from './migrations/migrate.js';
import { layerRules, matteRules, type Layer, type LayerOutline } from './layers/index.js';
import { rulesOf, type Fault } from './trackers/index.js';

function bad(path: string, why: string): LurnError {
  return new LurnError('bad-document', `The shot cannot be saved: ${path} ${why}.`, { path });
}

const NO_FILE = "names a file that is not among the shot's";

/** What is wrong with a layer: where, and what; null where nothing is. */
function faultOfLayer(layer: Layer, frames: number, assets: ReadonlySet<string>): Fault | null {
  const late = (path: string, frame: number): Fault | null =>
    frame >= frames ? [path, whyNotWithin([0, frames - 1], frame)] : null;
  const ofOutline = (path: string, outline: LayerOutline): Fault | null => {
    const fault = faultOfKeys(outline.keys, frames);
    return fault && [`${path}.${fault[0]}`, fault[1]];
  };
  const faults = [late('frame', layer.frame)];
  layer.keys.forEach((key, i) => {
    faults.push(late(`keys[${i}].frame`, key.frame));
    if (i > 0 && key.frame <= layer.keys[i - 1].frame)
      faults.push([`keys[${i}].frame`, 'is not after the key before it']);
  });
  if (layer.range && layer.range.from > layer.range.to)
    faults.push(['range', 'has its first frame after its last']);
  layer.mattes.forEach((m, i) => {
    const { frame, drawn, files } = matteRules(m);
    if (frame) faults.push(late(`mattes[${i}].frame`, frame(m)));
    if (files?.(m).some((hash) => !assets.has(hash))) faults.push([`mattes[${i}].asset`, NO_FILE]);
    if (drawn) faults.push(ofOutline(`mattes[${i}].outline`, drawn(m).outline));
  });
  if ('outline' in layer && layer.outline) faults.push(ofOutline('outline', layer.outline));
  const rules = layerRules(layer);
  for (const [path, frame] of rules.frames?.(layer) ?? []) faults.push(late(path, frame));
  for (const [path, hash] of rules.files(layer)) if (!assets.has(hash)) faults.push([path, NO_FILE]);
  faults.push(rules.fault?.(layer) ?? null);
  return faults.find((f) => f !== null) ?? null;
}

/**
 * Checks a document of unknown origin against the clip and brings older versions up to date.
 *
 * @throws LurnError `bad-document` that names the first value out of place; its `details` have the `path`.
 */
export function parseDocument(value: unknown, clip: ClipBounds): ShotDocument {
  const result = checked(ShotDocument, migrate(value), 'document');
  if ('fault' in result) throw bad(result.fault.path, result.fault.why);
  const document = result.value;
  const frames: readonly (readonly [string, number])[] = [
    ['range.from', document.range.from],
    ['range.to', document.range.to],
    ['ref', document.ref],
    ...document.cuts.map((frame, i) => [`cuts[${i}]`, frame] as const),
    ...document.regroups.map((word, i) => [`regroups[${i}].frame`, word.frame] as const),
    ...document.goal.keys.map((key, i) => [`goal.keys[${i}].frame`, key.frame] as const),
  ];
  for (const [path, frame] of frames) {
    if (frame >= clip.frames) throw bad(`document.${path}`, whyNotWithin([0, clip.frames - 1], frame));
  }
  const { range, goal, trackers, movers, held, deliveries, areas, layers, assets, notes } = document;
  if (range.from > range.to) throw bad('document.range', 'has its in point after its out point');
  goal.keys.forEach((key, i) => {
    if (i > 0 && key.frame <= goal.keys[i - 1].frame)
      throw bad(`document.goal.keys[${i}].frame`, 'is not after the keyframe before it');
  });
  notes.forEach(({ from, to }, i) => {
    if (to >= clip.frames) throw bad(`document.notes[${i}].to`, whyNotWithin([0, clip.frames - 1], to));
    if (from > to) throw bad(`document.notes[${i}]`, 'has its first frame after its last');
  });
  const lists = { trackers, movers, deliveries, areas, layers, notes };
  for (const [name, list] of Object.entries(lists)) {
    if (new Set(list.map((item) => item.id)).size !== list.length)
      throw bad(`document.${name}`, `has two ${name} with one id`);
  }
  const known = new Set(movers.map((m) => m.id));
  if (held !== null && !known.has(held)) throw bad('document.held', 'names a mover that is not there');
  trackers.forEach((t, i) => {
    if (!known.has(t.mover)) throw bad(`document.trackers[${i}].mover`, 'names a mover that is not there');
    const fault = rulesOf(t).fault(t, clip.frames);
    if (fault) throw bad(`document.trackers[${i}].${fault[0]}`, fault[1]);
  });
  areas.forEach(({ keys }, i) => {
    const fault = faultOfKeys(keys, clip.frames);
    if (fault) throw bad(`document.areas[${i}].${fault[0]}`, fault[1]);
  });
  const hashes = new Set(assets.map((a) => a.hash));
  layers.forEach((layer, i) => {
    const fault = faultOfLayer(layer, clip.frames, hashes);
    if (fault) throw bad(`document.layers[${i}].${fault[0]}`, fault[1]);
  });
  if (deliveries.length === 0) throw bad('document.deliveries', 'has no entry; one at least is needed');
  return document;
}
