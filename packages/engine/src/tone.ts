import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ToneMap, type LightCode } from '@lurn/core/picture';

/** Nodes of the table along each axis. */
const NODES = 33;

/**
 * What shows small pictures of HDR as the page shows the clip, to be put behind other filters; empty for what needs none.
 *
 * @param folder  its table is written into it, and has to be there while the filter runs
 */
export async function toneFilter(code: LightCode, folder: string): Promise<string> {
  const tone = await rgbToneFilter(code, folder);
  return tone && `,format=rgb24,${tone},scale=in_color_matrix=bt601:out_color_matrix=bt601,format=yuvj420p`;
}

/** The same for pictures of red, green and blue. */
export async function rgbToneFilter(code: LightCode, folder: string): Promise<string> {
  const map = ToneMap.for(code);
  if (!map) return '';
  const file = join(folder, 'tone.cube');
  await writeFile(file, cubeOf(map));
  return `lut3d=file=${escaped(file)}:interp=tetrahedral`;
}

/** A table as colour tools read it: red changes fastest. */
function cubeOf(map: ToneMap): string {
  const code = (i: number) => Math.round((255 * i) / (NODES - 1));
  const out = [0, 0, 0];
  const lines = [`LUT_3D_SIZE ${NODES}`];
  for (let b = 0; b < NODES; b++) {
    for (let g = 0; g < NODES; g++) {
      for (let r = 0; r < NODES; r++) {
        map.show(code(r), code(g), code(b), out);
        lines.push(out.map((v) => (v / 255).toFixed(5)).join(' '));
      }
    }
  }
  return `${lines.join('\n')}\n`;
}

/** A path as the value of a filter's option, within a chain of filters. */
function escaped(path: string): string {
  return path.replace(/[\\':]/g, '\\$&').replace(/[\\'[\],;]/g, '\\$&');
}
