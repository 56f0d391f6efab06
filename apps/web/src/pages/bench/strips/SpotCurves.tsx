import { useMemo } from 'react';
import type { Track } from '@lurn/core';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { Curve, type CurveLine, type OnAxis } from './Curve';

const ROWS = [
  ['x', 'across', 'px', 1],
  ['y', 'down', 'px', 1],
  ['confidence', 'confidence', '', 2],
] as const;

/** How many rows {@link SpotCurves} has, without and with a residual. */
export const SPOT_ROWS = ROWS.length;

/** Across, down and confidence of one spot along time, with what a change under consideration would do. */
export function SpotCurves({
  spot,
  track,
  changed,
  residuals,
  ...axis
}: OnAxis & {
  readonly spot: Spot;
  readonly track: Track;
  readonly changed: Track | null;
  /** How far it lies from where the motion puts it, frame by frame from frame 0; null when it is not in the solve. */
  readonly residuals: Float32Array | null;
}) {
  const rows = useMemo(() => {
    const colour = spotColour(spot.colour);
    return ROWS.map(([key, label, unit, decimals]) => {
      const values = (t: Track) => Float64Array.from(t[key], (v, i) => (t.state[i] ? v : NaN));
      const lines: CurveLine[] = [{ values: values(track), colour }];
      if (changed && key !== 'confidence')
        lines.push({ values: values(changed), colour: 'var(--color-base-content)', name: 'tamed' });
      const format = (v: number) => `${v.toFixed(decimals)}${unit && ` ${unit}`}`;
      return { key, label, lines, format };
    });
  }, [spot.colour, track, changed]);
  const off = useMemo(
    () => residuals && [{ values: residuals, colour: spotColour(spot.colour) }],
    [residuals, spot.colour],
  );
  return (
    <>
      {rows.map(({ key, label, lines, format }) => (
        <Curve
          key={key}
          {...axis}
          label={`${spot.name}, ${label}`}
          lines={lines}
          from={track.start}
          format={format}
          floor={key === 'confidence' ? 0 : undefined}
          limit={key === 'confidence' ? 1 : undefined}
        />
      ))}
      {off && (
        <Curve
          {...axis}
          label={`${spot.name}, residual`}
          lines={off}
          from={0}
          format={(v) => `${v.toFixed(2)} px`}
          floor={0}
        />
      )}
    </>
  );
}
