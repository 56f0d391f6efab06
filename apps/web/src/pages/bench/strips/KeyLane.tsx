import type { Amounts } from '@lurn/core/plan';
import { moveGoalKey } from '@lurn/model';
import { GOALS } from '../../../lib/words';
import { goTo, useBench } from '../../../state/bench';
import { edit, shotDocument, useShot } from '../../../state/shot';
import { dragHandle, LABEL, LANE, RIGHT, type X } from './axis';

const MIDDLE = LANE / 2;

/** How much is taken out: one share, or from the least to the largest. */
function shareOf({ x, y, rotation, scale }: Amounts): string {
  const shares = [x, y, rotation, scale].map((v) => Math.round(100 * v));
  const [low, high] = [Math.min(...shares), Math.max(...shares)];
  return low === high ? `${low} %` : `${low}–${high} %`;
}

/** The keyframes of goal and amounts along time: drawn as they pass into each other, dragged from frame to frame. */
export function KeyLane({
  x,
  width,
  frameAt,
}: {
  readonly x: X;
  readonly width: number;
  readonly frameAt: (clientX: number) => number;
}) {
  const frame = useBench((s) => s.frame);
  const { keys } = useShot((s) => s.state.document.goal);
  const drag = (index: number) =>
    dragHandle(
      (clientX) => {
        const now = shotDocument().goal.keys;
        const low = (now[index - 1]?.frame ?? -1) + 1;
        const high = (now[index + 1]?.frame ?? Math.round(x.domain()[1]) + 1) - 1;
        const to = Math.min(high, Math.max(low, Math.round(frameAt(clientX))));
        edit((s) => moveGoalKey(s, now[index].frame, to));
        goTo(to);
      },
      () => goTo(keys[index].frame),
    );
  return (
    <div className="rule flex border-b" style={{ height: LANE }}>
      <div className="shrink-0 truncate px-2 text-xs" style={{ width: LABEL }}>
        Keyframes
      </div>
      <svg
        width={width + RIGHT}
        height={LANE}
        className="overflow-hidden"
        role="img"
        aria-label={`Keyframes on frames ${keys.map((k) => k.frame).join(', ')}`}
      >
        {keys.map((key, i) => {
          const next = keys[i + 1];
          const [from, to] = [x(key.frame), next ? x(next.frame) : width + RIGHT];
          return (
            <g key={i}>
              <path
                d={`M${from} ${MIDDLE}H${to}`}
                stroke="var(--color-primary)"
                strokeWidth={next && key.easing !== 'hold' ? 1.2 : 3}
                strokeDasharray={next && key.easing === 'smooth' ? '4 3' : undefined}
                opacity={0.6}
              />
              <text x={from + 8} y={MIDDLE - 1.5} fontSize={9} fill="currentColor" pointerEvents="none">
                {to - from > 40 ? `${GOALS[key.goal]} ${shareOf(key.amounts)}` : ''}
              </text>
            </g>
          );
        })}
        {keys.map((key, i) => (
          <g
            key={i}
            transform={`translate(${x(key.frame)} ${MIDDLE})`}
            className="cursor-ew-resize"
            data-testid="goal-key"
            {...drag(i)}
          >
            <title>{`${GOALS[key.goal]} from frame ${key.frame}: drag it`}</title>
            <rect x={-7} y={-MIDDLE} width={14} height={LANE} fill="transparent" />
            <path
              d="M-4.5 -4.5H4.5V1L0 6L-4.5 1Z"
              fill={key.frame === frame ? 'var(--color-base-content)' : 'var(--color-primary)'}
              stroke="var(--color-base-100)"
            />
          </g>
        ))}
      </svg>
    </div>
  );
}
