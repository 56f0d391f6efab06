import { useBench } from '../../../state/bench';
import { LABEL, type X } from './axis';

export function Playhead({ x, height }: { readonly x: X; readonly height: number }) {
  const frame = useBench((s) => s.frame);
  const [left, right] = x.domain();
  if (frame < left || frame > right) return null;
  return (
    <div
      className="pointer-events-none absolute top-0 z-20 w-px bg-base-content"
      style={{ height, transform: `translateX(${LABEL + x(frame)}px)` }}
      aria-hidden="true"
    >
      <span className="absolute -top-px -left-[5px] border-x-[5.5px] border-t-[7px] border-x-transparent border-t-base-content" />
    </div>
  );
}

/** Where the pointer is on the time axis. */
export function HoverLine({
  at,
  frame,
  height,
}: {
  readonly at: number;
  readonly frame: number;
  readonly height: number;
}) {
  return (
    <div
      className="pointer-events-none absolute top-0 z-10 border-l border-dashed border-base-content/50"
      style={{ height, transform: `translateX(${at}px)` }}
      aria-hidden="true"
    >
      <span className="num relative top-[11px] ml-1 bg-base-200/90 px-0.5 text-[10px]">{frame}</span>
    </div>
  );
}
