/** A canvas that writes down what is drawn on it: jsdom has none. */

export interface Drawn {
  readonly rects: { x: number; y: number; width: number; height: number; fill: string; alpha: number }[];
  readonly lines: { points: [number, number][]; dash: number[] }[];
}

/** @returns what is drawn, and a context that draws it: rectangles and lines alone */
export function recordedContext(): { readonly drawn: Drawn; readonly context: CanvasRenderingContext2D } {
  const drawn: Drawn = { rects: [], lines: [] };
  let path: [number, number][][] = [];
  let dash: number[] = [];
  const state = { fillStyle: '', strokeStyle: '', globalAlpha: 1, lineWidth: 1, lineJoin: '' };
  const context = {
    ...state,
    setTransform: () => undefined,
    clearRect: () => undefined,
    setLineDash: (lengths: number[]) => (dash = lengths),
    beginPath: () => (path = []),
    moveTo: (x: number, y: number) => path.push([[x, y]]),
    lineTo: (x: number, y: number) => path[path.length - 1].push([x, y]),
    closePath: () => undefined,
    arc: () => undefined,
    fill: () => undefined,
    stroke: () => drawn.lines.push(...path.map((points) => ({ points, dash }))),
    fillRect(x: number, y: number, width: number, height: number) {
      drawn.rects.push({ x, y, width, height, fill: this.fillStyle, alpha: this.globalAlpha });
    },
  };
  return { drawn, context: context as unknown as CanvasRenderingContext2D };
}
