import { useLayoutEffect, useRef, useSyncExternalStore } from 'react';

/** What a strip is drawn with. */
export interface Pen {
  readonly context: CanvasRenderingContext2D;
  readonly width: number;
  readonly height: number;
  /** The nearest place between two of the screen's own pixels: what meets there shows no seam. */
  readonly snap: (at: number) => number;
  /** A colour as the style sheet has it: `var(--color-…)` looked up, anything else as it is. */
  readonly colour: (css: string) => string;
}

interface StripCanvasProps {
  readonly width: number;
  readonly height: number;
  /** Draws all of it; it is called again when another function is given. */
  readonly draw: (pen: Pen) => void;
}

const subscribe = (changed: () => void) => {
  const observer = new MutationObserver(changed);
  observer.observe(document.documentElement, { attributeFilter: ['data-theme'] });
  return () => observer.disconnect();
};

const themeOf = () => document.documentElement.dataset.theme;

/** Colours of the present theme, looked up once: to ask for one makes the browser work out every style. */
let colours = { theme: themeOf(), known: new Map<string, string>() };

function colourOf(css: string): string {
  const name = /^var\((--[\w-]+)\)$/.exec(css)?.[1];
  if (!name) return css;
  if (colours.theme !== themeOf()) colours = { theme: themeOf(), known: new Map() };
  let colour = colours.known.get(name);
  if (!colour) {
    colour = getComputedStyle(document.documentElement).getPropertyValue(name);
    colours.known.set(name, colour);
  }
  return colour;
}

/** A strip that is drawn, not built of elements: as quick with a hundred thousand frames as with a hundred. */
export function StripCanvas({ width, height, draw }: StripCanvasProps) {
  const ref = useRef<HTMLCanvasElement>(null);
  const theme = useSyncExternalStore(subscribe, themeOf);
  useLayoutEffect(() => {
    const canvas = ref.current!;
    const ratio = devicePixelRatio;
    const [wide, high] = [Math.round(width * ratio), Math.round(height * ratio)];
    // New room only where it is needed: it costs more than clearing.
    if (canvas.width !== wide) canvas.width = wide;
    if (canvas.height !== high) canvas.height = high;
    const context = canvas.getContext('2d', { willReadFrequently: true });
    if (!context) return;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.globalAlpha = 1;
    context.clearRect(0, 0, width, height);
    const snap = (at: number) => Math.round(at * ratio) / ratio;
    draw({ context, width, height, snap, colour: colourOf });
  }, [width, height, draw, theme]);
  return (
    <canvas
      ref={ref}
      className="pointer-events-none absolute inset-0"
      style={{ width, height }}
      aria-hidden="true"
    />
  );
}
