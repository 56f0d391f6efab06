import { apply, multiply, type Point } from '../../geometry/matrix.js';
import { sizeFor } from './choices.js';
import { matrixOf, type MovingData } from './moving-data.js';

/** A closed outline, or a single point, and where it goes. */
export interface KeyedOutline {
  readonly name: string;
  readonly keys: readonly { readonly frame: number; readonly time: number; readonly at: readonly Point[] }[];
}

/** What is shown of data: a spot's place, a surface's corners, or where the picture's own corners go as it is steadied. */
export function outlinesOf(data: MovingData): readonly KeyedOutline[] {
  const corners = () => {
    const { width, height } = sizeFor(data.clip, 'A picture that moves');
    return [[0, 0], [width, 0], [width, height], [0, height]] as const; // prettier-ignore
  };
  const rest = data.kind === 'motion' ? corners() : [];
  return data.things.map(({ name, frames }) => ({
    name,
    keys: frames.map((f) => {
      const { frame, time, values } = f;
      if (data.kind !== 'motion')
        return { frame, time, at: Array.from({ length: values.length / 2 }, (_, k) => ({ x: values[2 * k], y: values[2 * k + 1] })) }; // prettier-ignore
      const m = multiply(matrixOf(f, 2), matrixOf(f, 1));
      return { frame, time, at: rest.map(([x, y]) => apply(m, x, y)) };
    }),
  }));
}
