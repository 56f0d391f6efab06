import { useMemo } from 'react';
import type { Track } from '@lurn/core/track';
import type { Spot } from '@lurn/model';
import { spotColour } from '../../../lib/colours';
import { Curve, type CurveLine, type OnAxis } from './Curve';

interface SpotRow {
  readonly key: string;
  readonly label: string;
  readonly unit: string;
  readonly decimals: number;
  readonly values: (track: Track) => Float64Array | Float32Array;
  /** What the shown number is of the recorded one. */
  readonly times: number;
  /** The lowest and the highest that it can be. */
  readonly bounds?: readonly [number, number];
  /** Not shown where nothing of it was measured. */
  readonly rare?: boolean;
}

const ROWS: readonly SpotRow[] = [
  { key: 'x', label: 'across', unit: ' px', decimals: 1, times: 1, values: (t) => t.values.x },
  { key: 'y', label: 'down', unit: ' px', decimals: 1, times: 1, values: (t) => t.values.y },
  {
    ...{ key: 'turn', label: 'turned', unit: '°', decimals: 2, times: 180 / Math.PI },
    ...{ values: (t) => t.values.turn, rare: true },
  },
  {
    ...{ key: 'scale', label: 'grown', unit: ' %', decimals: 1, times: 100 },
    ...{ values: (t) => t.values.scale, rare: true },
  },
  {
    ...{ key: 'confidence', label: 'confidence', unit: '', decimals: 2, times: 1 },
    ...{ values: (t) => t.confidence, bounds: [0, 1] },
  },
];

const shownRows = (track: Track) =>
  ROWS.filter((r) => !r.rare || r.values(track).some((v) => !Number.isNaN(v)));

/** How many rows {@link SpotCurves} has without a residual. */
export const spotRows = (track: Track) => shownRows(track).length;

/** Place, shape and confidence of one spot along time, with what a change under consideration would do. */
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
    return shownRows(track).map(({ key, label, unit, decimals, times, bounds, ...row }) => {
      const values = (t: Track) => Float64Array.from(row.values(t), (v, i) => (t.state[i] ? v * times : NaN));
      const lines: CurveLine[] = [{ values: values(track), colour }];
      if (changed && key !== 'confidence')
        lines.push({ values: values(changed), colour: 'var(--color-base-content)', name: 'tamed' });
      const format = (v: number) => `${v.toFixed(decimals)}${unit}`;
      return { key, label, lines, format, bounds };
    });
  }, [spot.colour, track, changed]);
  const off = useMemo(
    () => residuals && [{ values: residuals, colour: spotColour(spot.colour) }],
    [residuals, spot.colour],
  );
  return (
    <>
      {rows.map(({ key, label, lines, format, bounds }) => (
        <Curve
          key={key}
          {...axis}
          label={`${spot.name}, ${label}`}
          lines={lines}
          from={track.start}
          format={format}
          floor={bounds?.[0]}
          limit={bounds?.[1]}
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
