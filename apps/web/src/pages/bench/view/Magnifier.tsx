import { spotsOf } from '@lurn/model';
import { gradeOf } from '@lurn/core/track';
import { useBench } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { magnifierPanes } from './magnifier-panes';

/** Outlines and scale of the magnifier; its pixels are drawn by the worker. */
export function Magnifier({ width, height }: { readonly width: number; readonly height: number }) {
  const magnifier = useBench((s) => s.magnifier)!;
  const spots = useShot((s) => spotsOf(s.state.document));
  const grip = useBench((s) => s.grips[s.magnifier?.spot ?? '']);
  const spot = spots.find((s) => s.id === magnifier.spot);
  if (!spot) return <CornerMagnifier width={width} height={height} />;
  const holds = grip && gradeOf(grip) !== 'loose' && gradeOf(grip) !== 'none' && !grip.lookalike;
  return (
    <g pointerEvents="none">
      {magnifierPanes(magnifier, width, height).map((inset) => {
        const s = inset.toPane[0];
        const half = (k: 0 | 1) =>
          (inset.name === 'patch' ? spot.patch[k] + 0.5 : spot.patch[k] + spot.reach[k] + 0.5) * s;
        const [cx, cy] = [inset.width / 2, inset.height / 2];
        return (
          <g key={inset.name} transform={`translate(${inset.x} ${inset.y})`}>
            <rect width={inset.width} height={inset.height} fill="none" stroke="#e8e2d4" strokeWidth={1} />
            {(
              [
                ['#000', 2.6],
                ['#e8e2d4', 1],
              ] as const
            ).map(([colour, w]) => (
              <g
                key={colour}
                fill="none"
                stroke={colour}
                strokeWidth={w}
                strokeDasharray={inset.name === 'reach' ? '1.5 3.5' : undefined}
              >
                <rect x={cx - half(0)} y={cy - half(1)} width={2 * half(0)} height={2 * half(1)} />
                {inset.name === 'patch' && <rect x={cx - s / 2} y={cy - s / 2} width={s} height={s} />}
              </g>
            ))}
            {inset.name === 'patch' && grip && (
              <text
                x={5}
                y={15}
                fontSize={11}
                className="num"
                fill={holds ? '#e8e2d4' : '#f0b445'}
                stroke="#000"
                strokeWidth={2.5}
                paintOrder="stroke"
              >
                {`${holds ? '' : '▲ '}grip ${grip.error < 10 ? `± ${Math.max(0.01, grip.error).toFixed(2)} px` : 'none'}${grip.slides !== null ? ', slides' : ''}${grip.lookalike ? ', lookalike' : ''}`}
              </text>
            )}
            {inset.name === 'patch' && grip && grip.slides !== null && (
              <line
                x1={cx - Math.cos(grip.slides) * half(0)}
                y1={cy - Math.sin(grip.slides) * half(0)}
                x2={cx + Math.cos(grip.slides) * half(0)}
                y2={cy + Math.sin(grip.slides) * half(0)}
                stroke="#f0b445"
                strokeWidth={1.5}
                strokeDasharray="5 4"
              />
            )}
            <text
              x={5}
              y={inset.height - 6}
              fontSize={11}
              className="num"
              fill="#e8e2d4"
              stroke="#000"
              strokeWidth={2.5}
              paintOrder="stroke"
            >
              {inset.name === 'patch'
                ? `${magnifier.x.toFixed(1)}, ${magnifier.y.toFixed(1)} px   ${s.toFixed(1)}×`
                : `reach ±${spot.reach[0]}, ±${spot.reach[1]} px`}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** A corner under the magnifier: its pixel in the middle, with a cross that leaves it visible. */
function CornerMagnifier({ width, height }: { readonly width: number; readonly height: number }) {
  const magnifier = useBench((s) => s.magnifier)!;
  return (
    <g pointerEvents="none">
      {magnifierPanes(magnifier, width, height).map((inset) => {
        const [cx, cy] = [inset.width / 2, inset.height / 2];
        const s = inset.toPane[0];
        const d = `M${cx - 40} ${cy}H${cx - s}M${cx + s} ${cy}H${cx + 40}M${cx} ${cy - 40}V${cy - s}M${cx} ${cy + s}V${cy + 40}`;
        return (
          <g key={inset.name} transform={`translate(${inset.x} ${inset.y})`}>
            <rect width={inset.width} height={inset.height} fill="none" stroke="#e8e2d4" strokeWidth={1} />
            <path d={d} stroke="#000" strokeWidth={3} />
            <path d={d} stroke="#e8e2d4" strokeWidth={1.2} />
            <text
              x={5}
              y={inset.height - 6}
              fontSize={11}
              className="num"
              fill="#e8e2d4"
              stroke="#000"
              strokeWidth={2.5}
              paintOrder="stroke"
            >
              {`${magnifier.x.toFixed(1)}, ${magnifier.y.toFixed(1)} px   ${s.toFixed(1)}×`}
            </text>
          </g>
        );
      })}
    </g>
  );
}
