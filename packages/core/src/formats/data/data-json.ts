import { writtenMesh } from '../motion-file.js';
import { asChosen, type DataChoices } from './choices.js';
import { exact, plain, type DataExport } from './data-export.js';
import { writtenMeshes } from './kinds/mesh-data.js';
import { matrixOf, type MovingData, type MovingFrame } from './moving-data.js';

/** Data as plain JSON: a motion as MOTION.json has it, spots and surfaces by name with their frames. */
export function plainData(data: MovingData, choices: DataChoices): object {
  const whole = asChosen(data, choices);
  const { kind, clip, things, solved } = whole;
  const told = Object.fromEntries(Object.entries(clip).filter(([, v]) => v !== null));
  if (kind === 'meshes') return { ...(Object.keys(told).length > 0 && { clip: told }), meshes: writtenMeshes(whole) };
  if (kind === 'motion') {
    const [held] = things;
    return {
      ...{ clip: told, ref: solved!.ref, zoom: solved!.zoom, held: held.name, cuts: solved!.cuts },
      frames: held.frames.map((f) => ({
        frame: f.frame,
        ...{ motion: matrix(f, 0), correction: matrix(f, 1), framing: matrix(f, 2) },
        ...(f.mesh && { mesh: writtenMesh(f.mesh) }),
        residual_px: f.residual ?? null,
      })),
    };
  }
  if (kind === 'movers') {
    const movers = things.map(({ name, frames }) => ({
      name,
      frames: frames.map((f) => ({ frame: f.frame, motion: matrix(f, 0), residual_px: f.residual ?? null })),
    }));
    return { clip: told, movers };
  }
  const list = things.map(({ name, frames }) => ({ name, frames: frames.map((f) => ofPlace(f, kind)) }));
  return { clip: told, [kind === 'tracks' ? 'spots' : 'surfaces']: list };
}

const matrix = (f: MovingFrame, which: 0 | 1 | 2) => matrixOf(f, which).map(exact);

function ofPlace({ frame, time, values, confidence, state }: MovingFrame, kind: 'tracks' | 'corners'): object {
  const [x, y] = values.map(plain);
  const pairs = [0, 2, 4, 6].map((k) => [plain(values[k]), plain(values[k + 1])]);
  return { frame, time_s: plain(time), ...(kind === 'tracks' ? { x, y } : { corners: pairs }), confidence, state };
}

export const jsonExport: DataExport = {
  ...{ id: 'json', name: 'JSON', extension: 'json', meshes: true },
  of: ['tracks', 'corners', 'motion', 'movers', 'meshes'],
  heeds: ['origin', 'y', 'unit', 'first'],
  *files(data, choices) {
    // A frame a line. Within names a quotation mark is never bare, so this is found between frames alone.
    const text = JSON.stringify(plainData(data, choices)).replace(/([,[])\{"frame":/g, '$1\n{"frame":');
    yield { name: 'data.json', content: `${text}\n` };
  },
};
