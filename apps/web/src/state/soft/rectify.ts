import { bordersOf, type Point } from '@lurn/core/geometry';
import { changeSurface, faultOfLaying, meshOf, softById, type LaidTo, type SoftSurface } from '@lurn/model';
import { toast } from 'sonner';
import { edit, shotDocument } from '../shot';
import { pairs } from '../../lib/places';

/** What a soft surface is laid flat to. */

/** Lays a soft surface to a rectangle about its outline, or as it lies on the reference frame. */
export function layTo(id: string, how: 'frame' | 'ahead' | 'straight'): void {
  const soft = softById(shotDocument(), id);
  if (!soft) return;
  if (how === 'frame') {
    edit((s) => changeSurface<SoftSurface>(s, id, { laid: undefined }));
    return;
  }
  const corners = soft.laid?.corners ?? pairs(cornersOf(soft));
  lay(soft, { corners, straight: how === 'straight' }, true);
}

/** Moves a corner of the rectangle that a soft surface is laid to. @returns why it was refused; null where it was not */
export function moveLaidCorner(id: string, index: number, to: Point): string | null {
  const soft = softById(shotDocument(), id);
  if (!soft?.laid) return null;
  const corners = soft.laid.corners.map((c, i) => (i === index ? pairs([to])[0] : c));
  return lay(soft, { ...soft.laid, corners }, false);
}

function lay(soft: SoftSurface, laid: LaidTo, aloud: boolean): string | null {
  const fault = faultOfLaying(meshOf(soft), laid);
  if (fault) {
    if (aloud) toast.warning(fault, { id: 'mesh' });
    return fault;
  }
  edit((s) => changeSurface<SoftSurface>(s, soft.id, { laid }));
  return null;
}

/** The points of the border that are farthest towards the four corners of the picture, clockwise from the top left. */
function cornersOf(soft: SoftSurface): Point[] {
  const { vertices } = meshOf(soft);
  const [border = []] = bordersOf(soft.faces).sort((a, b) => b.length - a.length);
  return [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([x, y]) => {
    const far = (v: number) => x * vertices[v].x + y * vertices[v].y;
    return vertices[border.reduce((best, v) => (far(v) > far(best) ? v : best), border[0])];
  });
}
