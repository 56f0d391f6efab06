import { LurnError } from '../errors.js';
import { bridge } from '../track/repair.js';
import { measuredEnd } from '../track/measured.js';
import { sampleAt } from '../track/track.js';
import { tracksOfMesh } from './from-tracks.js';
import { softAt, softSample, withSoftSamples, type SoftTrack } from './soft-track.js';

const isFirm = (track: SoftTrack, frame: number, v: number) => {
  const state = softAt(track, frame)?.vertices[v]?.state;
  return state === 'tracked' || state === 'pinned';
};

/** The frames round one on which vertices that are not seen on it are not seen either, with one more at each end. */
export function gapOfMesh(
  track: SoftTrack,
  frame: number,
  only?: ReadonlySet<number>,
): { readonly from: number; readonly to: number } {
  const meant = Array.from({ length: track.width }, (_, v) => v).filter(
    (v) => (!only || only.has(v)) && !isFirm(track, frame, v),
  );
  const open = (f: number) => meant.some((v) => !isFirm(track, f, v));
  let [from, to] = [frame, frame];
  while (from > track.start && open(from)) from--;
  while (to < measuredEnd(track) - 1 && open(to)) to++;
  return { from, to };
}

/**
 * Bridges the gaps of a mesh's vertices from one frame to another, each from its own trusted samples at either side; what
 * was pinned or tracked stays.
 *
 * @param only  the vertices that are meant; all when left out
 * @throws LurnError `nothing-to-bridge` where no vertex has a gap between samples there
 */
export function bridgeMesh(
  track: SoftTrack,
  from: number,
  to: number,
  only?: ReadonlySet<number>,
): SoftTrack {
  const bridged = tracksOfMesh(track).map((one, v) => {
    if (only && !only.has(v)) return null;
    try {
      return bridge(one, from, to);
    } catch (error) {
      if (error instanceof LurnError && error.code === 'nothing-to-bridge') return null;
      throw error;
    }
  });
  if (bridged.every((one) => one === null))
    throw new LurnError(
      'nothing-to-bridge',
      `None of its points has a gap between samples from frame ${from} to ${to}. Choose a span with samples on both of its sides.`,
    );
  const samples = [];
  for (let frame = from; frame <= to; frame++) {
    const known = softAt(track, frame);
    const vertices = bridged.map((one, v) => {
      const sample = one && sampleAt(one, frame);
      return sample?.state === 'bridged' ? sample : (known?.vertices[v] ?? null);
    });
    if (vertices.some((v) => v)) samples.push(softSample(frame, vertices, known?.held));
  }
  return withSoftSamples(track, samples);
}
