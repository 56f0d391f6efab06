import { median } from 'd3-array';
import { useEffect, useMemo, useRef } from 'react';
import type { Surface } from '@lurn/model';
import { useLastLook, wantLooks } from '../../../state/surface-look';
import { Hint } from './Section';

/** Differences are shown so many times as strong. */
const STRONGER = 4;

/** The surface laid flat, as it is on this frame, on its own, and what differs: what swims is seen at once. */
export function Flattened({ surface }: { readonly surface: Surface }) {
  const look = useLastLook(surface.id);
  useEffect(wantLooks, []);
  const gain = useMemo(() => (look ? gainOf(look.flat, look.own) : 1), [look]);
  if (!look) return <Hint>It has to be known on this frame: track it first.</Hint>;
  const { width, height, flat, own } = look;
  const between = (i: number) => 128 + STRONGER * (gain * flat[i] - own[i]);
  return (
    <div className="space-y-1.5">
      <Grey label={`Frame ${look.frame}`} width={width} height={height} value={(i) => flat[i]} />
      <Grey label={`Its own, ${surface.frame}`} width={width} height={height} value={(i) => own[i]} />
      <Grey label={`Difference, ${STRONGER} ×`} width={width} height={height} value={between} />
    </div>
  );
}

/** How much brighter one picture is than another, by the middle of what single places say: something in front changes nothing. */
function gainOf(flat: Uint8Array, own: Uint8Array): number {
  const step = Math.max(1, Math.floor(own.length / 4000));
  const ratios: number[] = [];
  for (let i = 0; i < own.length; i += step) if (flat[i] > 8) ratios.push(own[i] / flat[i]);
  return median(ratios) ?? 1;
}

function Grey({
  label,
  width,
  height,
  value,
}: {
  readonly label: string;
  readonly width: number;
  readonly height: number;
  readonly value: (i: number) => number;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const image = context.createImageData(width, height);
    for (let i = 0, k = 0; i < width * height; i++, k += 4) {
      const v = value(i);
      image.data[k] = image.data[k + 1] = image.data[k + 2] = v;
      image.data[k + 3] = 255;
    }
    context.putImageData(image, 0, 0);
  });
  return (
    <figure>
      <figcaption className="quiet num text-xs">{label}</figcaption>
      <canvas ref={canvas} width={width} height={height} className="w-full" role="img" aria-label={label} />
    </figure>
  );
}
