import { scaleLinear, scaleLog } from 'd3-scale';
import { line } from 'd3-shape';
import { useMemo, useState } from 'react';
import { partsRms, spectrum, type SimilarityParts } from '@lurn/core';
import { PARTS } from '../../../lib/words';
import { useAim } from '../../../state/aims';
import { type Part, useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { Choice } from './Choice';
import { Hint } from './Section';

type Course = readonly (SimilarityParts | null)[];

/** Shake before and after, component by component, and which frequencies went: by the spots, or by the pictures. */
export function LeftPanel({ measure }: { readonly measure: () => void }) {
  const { steady, measured, measuring, info } = useBenchParts('steady', 'measured', 'measuring', 'info');
  const { range } = useShot((s) => s.state.document);
  const aim = useAim();
  const [part, setPart] = useState<Part>('y');
  const courses = useMemo(() => {
    if (!steady) return null;
    if (measured) {
      return {
        before: measured.before,
        after: measured.after,
        rmsBefore: partsRms(measured.strayBefore),
        rmsAfter: partsRms(measured.strayAfter),
      };
    }
    const { partsBefore, partsAfter, rmsBefore, rmsAfter } = steady.measure;
    const whole = (parts: Course) => parts.map((p, i) => p && sum(p, steady.wanted[range.from + i]));
    return { before: whole(partsBefore), after: whole(partsAfter), rmsBefore, rmsAfter };
  }, [steady, measured, range]);
  if (!courses) return <Hint>Track spots first.</Hint>;
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
            const [b, a] = [courses.rmsBefore[key] * times, courses.rmsAfter[key] * times];
            return (
              <tr key={key}>
                <td className="font-sans">{name}</td>
                <td className="text-right">{`${b.toFixed(3)} ${unit}`}</td>
                <td className="text-right">{`${a.toFixed(3)} ${unit}`}</td>
                <td className="text-right">{b > 0 ? `${(100 * (1 - a / b)).toFixed(0)} %` : '–'}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Hint>
        {measured
          ? `Measured on the pictures, frames ${range.from} to ${range.to}`
          : 'By the spots, carried through the correction'}
        {calm ? '; against the wanted course.' : '; against standing still.'}
      </Hint>
      <button type="button" className="btn btn-sm w-full" onClick={measure}>
        {measuring
          ? `Stop: ${measuring.done} of ${measuring.total} frames`
          : measured
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
        before={courses.before.map((p) => (p ? p[part] * chosen.times : NaN))}
        after={courses.after.map((p) => (p ? p[part] * chosen.times : NaN))}
        unit={chosen.unit}
        fps={info.fps}
      />
    </>
  );
}

function sum(a: SimilarityParts, b: SimilarityParts): SimilarityParts {
  return { x: a.x + b.x, y: a.y + b.y, rotation: a.rotation + b.rotation, logScale: a.logScale + b.logScale };
}

const WIDTH = 268;
const HEIGHT = 110;
const LEFT = 34;
const BOTTOM = 16;

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
  const x = scaleLog([shot.frequencies[0], shot.frequencies[n - 1]], [LEFT, WIDTH - 4]);
  const y = scaleLog([most / 1e4, most], [HEIGHT - BOTTOM, 4]).clamp(true);
  const path = (values: Float64Array) =>
    line<number>()
      .x((k) => x(shot.frequencies[k]))
      .y((k) => y(Math.max(values[k], most / 1e4)))(Array.from(values, (_, k) => k)) ?? '';
  const nearest = (px: number) => {
    const f = x.invert(px);
    let best = 0;
    for (let k = 1; k < n; k++)
      if (Math.abs(shot.frequencies[k] - f) < Math.abs(shot.frequencies[best] - f)) best = k;
    return best;
  };
  const ticks = [0.1, 0.3, 1, 3, 10, 30].filter(
    (f) => f >= shot.frequencies[0] && f <= shot.frequencies[n - 1],
  );
  const levels = scaleLinear([0, 4], [Math.log10(most / 1e4), Math.log10(most)]);
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full"
        role="img"
        aria-label={`Amplitude over frequency, ${unit}`}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          setHover(nearest(((e.clientX - box.left) / box.width) * WIDTH));
        }}
        onPointerLeave={() => setHover(null)}
      >
        {ticks.map((f) => (
          <g key={f}>
            <line x1={x(f)} x2={x(f)} y1={4} y2={HEIGHT - BOTTOM} stroke="var(--color-base-300)" />
            <text
              x={x(f)}
              y={HEIGHT - 4}
              fontSize={9}
              textAnchor="middle"
              className="num"
              fill="currentColor"
            >
              {f}
            </text>
          </g>
        ))}
        {[1, 2, 3, 4].map((k) => {
          const value = 10 ** levels(k);
          return (
            <text
              key={k}
              x={LEFT - 4}
              y={y(value) + 3}
              fontSize={9}
              textAnchor="end"
              className="num"
              fill="currentColor"
            >
              {value >= 10 ? value.toFixed(0) : value.toPrecision(1)}
            </text>
          );
        })}
        <path d={path(shot.amplitudes)} fill="none" stroke="var(--color-secondary)" strokeWidth={1.2} />
        <path d={path(left.amplitudes)} fill="none" stroke="var(--color-primary)" strokeWidth={1.4} />
        {hover !== null && (
          <line
            x1={x(shot.frequencies[hover])}
            x2={x(shot.frequencies[hover])}
            y1={4}
            y2={HEIGHT - BOTTOM}
            stroke="currentColor"
            strokeDasharray="2 2"
          />
        )}
      </svg>
      <figcaption className="text-[11px]">
        {hover === null ? (
          <span className="quiet">hertz across, {unit} up; grey as shot, green steadied</span>
        ) : (
          `${shot.frequencies[hover].toFixed(2)} Hz: ${shot.amplitudes[hover].toPrecision(2)} → ${left.amplitudes[hover].toPrecision(2)} ${unit}`
        )}
      </figcaption>
    </figure>
  );
}
