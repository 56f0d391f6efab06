import type { KeyboardEvent, ReactNode } from 'react';

/** Size of a small chart in a panel, in its own units; it fills the panel's width. */
export const PLOT = { width: 268, left: 38, right: 6, top: 5, bottom: 16 } as const;

export interface Tick {
  readonly at: number;
  readonly text: string;
}

interface PlotProps {
  readonly label: string;
  readonly height: number;
  /** Where lines and numbers stand: across, from the left; up, from the top. */
  readonly across: readonly Tick[];
  readonly up: readonly Tick[];
  /** Draws a line at the ticks of one axis. */
  readonly grid: 'across' | 'up';
  /** The pointer's place across in the chart's units; null when it leaves. */
  readonly onHover: (x: number | null) => void;
  /** For a chart on which a point is chosen: what makes it a slider. */
  readonly slider?: {
    readonly value: number;
    readonly most: number;
    readonly text: string;
    readonly onPick: () => void;
    readonly onKeyDown: (e: KeyboardEvent) => void;
  };
  readonly caption: ReactNode;
  readonly children: ReactNode;
}

/** The frame of a small chart: lines and numbers at its ticks, what is under the pointer, and a line of words. */
export function Plot({ label, height, across, up, grid, onHover, slider, caption, children }: PlotProps) {
  const { width, left, right, top, bottom } = PLOT;
  const role = slider
    ? {
        role: 'slider',
        tabIndex: 0,
        'aria-valuemin': 0,
        'aria-valuemax': slider.most,
        'aria-valuenow': slider.value,
        'aria-valuetext': slider.text,
        onClick: slider.onPick,
        onKeyDown: slider.onKeyDown,
      }
    : { role: 'img' };
  return (
    <figure>
      <svg
        viewBox={`0 0 ${width} ${height}`}
        className={`w-full ${slider ? 'cursor-pointer' : ''}`}
        aria-label={label}
        {...role}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          onHover(((e.clientX - box.left) / box.width) * width);
        }}
        onPointerLeave={() => onHover(null)}
      >
        <g className="num" fontSize={9} fill="currentColor">
          {up.map(({ at, text }) => (
            <g key={at}>
              {grid === 'up' && (
                <line x1={left} x2={width - right} y1={at} y2={at} stroke="var(--color-base-300)" />
              )}
              <text x={left - 4} y={at + 3} textAnchor="end">
                {text}
              </text>
            </g>
          ))}
          {across.map(({ at, text }) => (
            <g key={at}>
              {grid === 'across' && (
                <line x1={at} x2={at} y1={top} y2={height - bottom} stroke="var(--color-base-300)" />
              )}
              <text x={at} y={height - 4} textAnchor="middle">
                {text}
              </text>
            </g>
          ))}
        </g>
        {children}
      </svg>
      <figcaption className="text-[11px]">{caption}</figcaption>
    </figure>
  );
}

/** A dashed line up through a chart. */
export function PlotLine({ at, height }: { readonly at: number; readonly height: number }) {
  return (
    <line
      x1={at}
      x2={at}
      y1={PLOT.top}
      y2={height - PLOT.bottom}
      stroke="currentColor"
      strokeDasharray="3 2"
      pointerEvents="none"
    />
  );
}
