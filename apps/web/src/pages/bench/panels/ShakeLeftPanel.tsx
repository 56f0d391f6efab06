import { bisectCenter } from 'd3-array';
import { scaleLog } from 'd3-scale';
import { line } from 'd3-shape';
import { useMemo, useState } from 'react';
import type { SimilarityParts } from '@lurn/core/geometry';
import { partsRms, spectrum } from '@lurn/core/measure';
import { Plot, PLOT, PlotLine } from '../../../components/Plot';
import { isMeasured } from '../../../lib/measured';
import { PARTS } from '../../../lib/words';
import { useAim } from '../../../state/aims';
import { type Part, useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Hint } from './Section';

type PartsByFrame = readonly (SimilarityParts | null)[];

/** Shake before and after, component by component, and which frequencies went: by the spots, or by the pictures. */
export function ShakeLeftPanel({ measure }: { readonly measure: () => void }) {
  const { steady, pictureMeasure, measuring, info } = useBenchParts(
    'steady',
    'pictureMeasure',
    'measuring',
    'info',
  );
  const { range } = useShot((s) => s.state.document);
  const aim = useAim();
  const [part, setPart] = useState<Part>('y');
  const shake = useMemo(() => {
    if (!steady) return null;
    if (pictureMeasure) {
      return {
        before: pictureMeasure.before,
        after: pictureMeasure.after,
        rmsBefore: partsRms(pictureMeasure.strayBefore),
        rmsAfter: partsRms(pictureMeasure.strayAfter),
      };
    }
    const { partsBefore, partsAfter, rmsBefore, rmsAfter } = steady.measure;
    const whole = (parts: PartsByFrame) => parts.map((p, i) => p && sum(p, steady.wanted[range.from + i]));
    return { before: whole(partsBefore), after: whole(partsAfter), rmsBefore, rmsAfter };
  }, [steady, pictureMeasure, range]);
  if (!shake) return <Hint>Track spots first.</Hint>;
  const told = pictureMeasure !== null || (steady !== null && isMeasured(steady));
  const chosen = PARTS.find((p) => p.key === part)!;
  const calm = aim.goal === 'calm';
  return (
    <>
      <table className="w-full text-xs" aria-label="What is left">
        <thead>
          <tr className="quiet">
            <th className="text-left font-normal">RMS</th>
            <th className="text-right font-normal">as shot</th>
            <th className="text-right font-normal">steadied</th>
            <th className="text-right font-normal">gone</th>
          </tr>
        </thead>
        <tbody className="num">
          {PARTS.map(({ key, name, unit, times }) => {
            const [b, a] = [shake.rmsBefore[key] * times, told ? shake.rmsAfter[key] * times : NaN];
            return (
              <tr key={key}>
                <td className="font-sans">{name}</td>
                <td className="text-right">{`${b.toFixed(3)} ${unit}`}</td>
                <td className="text-right">{told ? `${a.toFixed(3)} ${unit}` : 'not measured'}</td>
                <td className="text-right">
                  {told && b >= LEAST ? `${(100 * (1 - a / b)).toFixed(1)} %` : '–'}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Hint>
        {pictureMeasure
          ? `Measured on the pictures, frames ${range.from} to ${range.to}`
          : 'By the spots, carried through the correction'}
        {calm ? '; against the wanted motion.' : '; against standing still.'}
      </Hint>
      <button type="button" className="btn btn-sm w-full" onClick={measure}>
        {measuring
          ? `Stop: ${measuring.done} of ${measuring.total} frames`
          : pictureMeasure
            ? 'Measure on the pictures again'
            : 'Measure on the pictures'}
      </button>
      <Choice
        label="Frequencies of"
        value={part}
        options={{ x: 'Across', y: 'Up-down', rotation: 'Rotation', logScale: 'Scale' }}
        onChange={setPart}
      />
      <SpectrumChart
        before={shake.before.map((p) => (p ? p[part] * chosen.times : NaN))}
        after={shake.after.map((p) => (p ? p[part] * chosen.times : NaN))}
        unit={chosen.unit}
        fps={info.fps}
      />
    </>
  );
}

function sum(a: SimilarityParts, b: SimilarityParts): SimilarityParts {
  return { x: a.x + b.x, y: a.y + b.y, rotation: a.rotation + b.rotation, logScale: a.logScale + b.logScale };
}

/** Below this, in the unit that it is told in, there was nothing that could be gone. */
const LEAST = 0.0005;
const HEIGHT = 110;
/** Amplitudes are shown down to this share of the largest. */
const FLOOR = 1e-4;

/** Amplitude over frequency, both logarithmic, as shot and steadied. */
function SpectrumChart({
  before,
  after,
  unit,
  fps,
}: {
  readonly before: readonly number[];
  readonly after: readonly number[];
  readonly unit: string;
  readonly fps: number;
}) {
  const [hover, setHover] = useState<number | null>(null);
  const [shot, left] = useMemo(() => [spectrum(before, fps), spectrum(after, fps)], [before, after, fps]);
  const n = shot.frequencies.length;
  if (n === 0) return <Hint>Too short for a spectrum.</Hint>;
  const most = Math.max(...shot.amplitudes, ...left.amplitudes, 1e-6);
  const x = scaleLog([shot.frequencies[0], shot.frequencies[n - 1]], [PLOT.left, PLOT.width - PLOT.right]);
  const y = scaleLog([most * FLOOR, most], [HEIGHT - PLOT.bottom, PLOT.top]).clamp(true);
  const path = (values: Float64Array) =>
    line<number>()
      .x((k) => x(shot.frequencies[k]))
      .y((k) => y(Math.max(values[k], most * FLOOR)))(Array.from(values, (_, k) => k)) ?? '';
  const frequencies = [0.1, 0.3, 1, 3, 10, 30].filter(
    (f) => f >= shot.frequencies[0] && f <= shot.frequencies[n - 1],
  );
  const levels = [1, 2, 3, 4].map((k) => most * FLOOR ** (1 - k / 4));
  return (
    <Plot
      label={`Amplitude over frequency, ${unit}`}
      height={HEIGHT}
      grid="across"
      across={frequencies.map((f) => ({ at: x(f), text: String(f) }))}
      up={levels.map((v) => ({ at: y(v), text: v >= 10 ? v.toFixed(0) : v.toPrecision(1) }))}
      onHover={(px) => setHover(px === null ? null : bisectCenter(shot.frequencies, x.invert(px)))}
      caption={
        hover === null ? (
          <span className="quiet">hertz across, {unit} up; grey as shot, green steadied</span>
        ) : (
          `${shot.frequencies[hover].toFixed(2)} Hz: ${shot.amplitudes[hover].toPrecision(2)} → ${left.amplitudes[hover].toPrecision(2)} ${unit}`
        )
      }
    >
      <path d={path(shot.amplitudes)} fill="none" stroke="var(--color-secondary)" strokeWidth={1.2} />
      <path d={path(left.amplitudes)} fill="none" stroke="var(--color-primary)" strokeWidth={1.4} />
      {hover !== null && <PlotLine at={x(shot.frequencies[hover])} height={HEIGHT} />}
    </Plot>
  );
}
