import { apply, multiply, type Matrix3, type Point } from '../../geometry/matrix.js';
import { sizeFor } from './choices.js';
import { matricesOf, matrixOf, type DataKind, type MovingData, type MovingFrame } from './moving-data.js';

/** A closed outline, or a single point, and where it goes. */
export interface KeyedOutline {
  readonly name: string;
  readonly keys: readonly { readonly frame: number; readonly time: number; readonly at: readonly Point[] }[];
}

/** How a picture goes on a frame: as it is steadied, or as a mover takes the reference frame's along. */
export function shownThrough(kind: DataKind, frame: MovingFrame): Matrix3 {
  return kind === 'motion' ? multiply(matrixOf(frame, 2), matrixOf(frame, 1)) : matrixOf(frame, 0);
}

/** What is shown of data: a spot's place, a surface's corners, or where the picture's own corners go. */
export function outlinesOf(data: MovingData): readonly KeyedOutline[] {
  const corners = () => {
    const { width, height } = sizeFor(data.clip, 'A picture that moves');
    return [[0, 0], [width, 0], [width, height], [0, height]] as const; // prettier-ignore
  };
  const rest = matricesOf(data.kind).length > 0 ? corners() : [];
  return data.things.map(({ name, frames }) => ({
    name,
    keys: frames.map((f) => {
      const { frame, time, values } = f;
      if (rest.length === 0)
        return { frame, time, at: Array.from({ length: values.length / 2 }, (_, k) => ({ x: values[2 * k], y: values[2 * k + 1] })) }; // prettier-ignore
      const m = shownThrough(data.kind, f);
      return { frame, time, at: rest.map(([x, y]) => apply(m, x, y)) };
    }),
  }));
}
