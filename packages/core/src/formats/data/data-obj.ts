import type { Point } from '../../geometry/matrix.js';
import { sizeFor } from './choices.js';
import { rounded, type DataExport } from './data-export.js';
import { placesOfMesh, pointsOf } from './kinds/mesh-data.js';
import type { MovingThing } from './moving-data.js';

const OBJECTS = {
  aFrame: 1,
  about: 'One object a frame, y up, in pixels; points that have ended go with the others.',
};

/** A mesh on each frame as Wavefront OBJ: y up, origin at the picture's bottom left, z 0, texture places on its own frame. */
export const objExport: DataExport = {
  ...{ id: 'obj', name: 'OBJ, one a frame', extension: 'zip', many: OBJECTS },
  of: ['meshes'],
  heeds: [],
  *files({ clip, things }) {
    const size = sizeFor(clip, 'OBJ, where y goes up,');
    for (const thing of things) {
      const folder = things.length > 1 ? `${plainName(thing.name)}/` : '';
      for (const { frame, places } of placesOfMesh(thing))
        yield {
          name: `${folder}${String(frame.frame).padStart(6, '0')}.obj`,
          content: objectOf(thing, places, size),
        };
    }
  },
};

const plainName = (name: string) => name.replace(/[^\p{L}\p{N}.-]+/gu, '_');

function objectOf(
  { name, mesh }: MovingThing,
  places: readonly Point[],
  { width, height }: { readonly width: number; readonly height: number },
): string {
  const lines = [`o ${name.replace(/\s+/g, '_')}`];
  for (const p of places) lines.push(`v ${rounded(p.x)} ${rounded(height - p.y)} 0`);
  for (const p of pointsOf(mesh!.vertices) as Point[])
    lines.push(`vt ${(p.x / width).toFixed(6)} ${(1 - p.y / height).toFixed(6)}`);
  // Clockwise on the screen, y down, is anticlockwise where y goes up: seen from the front.
  for (const face of mesh!.faces) lines.push(`f ${face.map((v) => `${v + 1}/${v + 1}`).reverse().join(' ')}`);
  return `${lines.join('\n')}\n`;
}
