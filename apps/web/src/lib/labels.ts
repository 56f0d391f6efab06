/** On which side of its mark each name stands, so that names keep clear of each other and of other marks. */

export interface Labelled {
  /** Middle and half-sizes of the mark, in pixels of the pane. */
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
  /** Characters of the name. */
  readonly length: number;
}

export type Side = 'right' | 'left';

/** Size of a character of the names, and what lies between a mark and its name, in pixels. */
export const LETTER = { width: 6.7, height: 13, gap: 4 } as const;

interface Box {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

function labelBox({ x, y, w, h, length }: Labelled, side: Side): Box {
  const width = length * LETTER.width;
  const left = side === 'right' ? x + w + LETTER.gap : x - w - LETTER.gap - width;
  return { left, right: left + width, top: y - h - LETTER.height + LETTER.gap, bottom: y - h + LETTER.gap };
}

function overlap(a: Box, b: Box): number {
  const across = Math.min(a.right, b.right) - Math.max(a.left, b.left);
  const down = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
  return across > 0 && down > 0 ? across * down : 0;
}

/**
 * The side with less of other marks and of the names placed before under it; the right one among equals.
 * Cost: marks squared.
 */
export function labelSides(marks: readonly Labelled[]): Side[] {
  const taken: Box[] = [];
  return marks.map((mark, i) => {
    const covered = (side: Side) => {
      const box = labelBox(mark, side);
      const others = marks.filter((_, k) => k !== i);
      const boxes = others.map((m) => ({
        ...{ left: m.x - m.w, right: m.x + m.w, top: m.y - m.h, bottom: m.y + m.h },
      }));
      return [...taken, ...boxes].reduce((sum, other) => sum + overlap(box, other), 0);
    };
    const side = covered('left') < covered('right') ? 'left' : 'right';
    taken.push(labelBox(mark, side));
    return side;
  });
}
