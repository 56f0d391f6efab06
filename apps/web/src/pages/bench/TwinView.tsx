import { useMemo, useRef, type PointerEvent } from 'react';
import {
  apply,
  chain,
  EMPTY_TRACK,
  gradeOf,
  invert,
  pictureMatrix,
  type GripMap,
  type Matrix3,
} from '@lurn/core';
import type { ClipFile } from '@lurn/media';
import { layOut, pictureToPane, scaleOf, zoomAbout, type PaneRect } from '../../lib/view';
import { setBench, useBench } from '../../state/bench';
import { takeSuggestions } from '../../state/looking';
import { patchAt } from '../../state/repairs';
import { useShot } from '../../state/shot';
import { magnifierPanes } from './magnifier';
import { press, type PointerState, type Target } from './pointer';
import { SpotMark, SpotPath } from './SpotMarks';
import { usePicture } from './usePicture';

const TITLES = { source: 'Source', steadied: 'Steadied' } as const;

/** Source and steadied picture on one playhead, zoom and pan, with the spots on them. */
export function TwinView({ file }: { readonly file: ClipFile }) {
  const host = useRef<HTMLDivElement>(null);
  const held = useRef<{ state: PointerState; pane: PaneRect } | null>(null);
  const size = usePicture(host, file);
  const { layout, wipe, camera, info, selected, shown, steady, magnifier, station, tracking, playing } =
    useBench();
  const { grips, map, suggestions, rectangle, tool, preview, eyeView } = useBench();
  const { document, tracks } = useShot((s) => s.state);
  const panes = useMemo(() => layOut(layout, size.width, size.height, wipe), [layout, size, wipe]);
  const working = ['spots', 'track', 'repair'].includes(station);

  const locate = (e: { clientX: number; clientY: number }, fixed?: PaneRect) => {
    const box = host.current!.getBoundingClientRect();
    const screen = { x: e.clientX - box.left, y: e.clientY - box.top };
    const pane =
      fixed ??
      panes.find((p) => screen.x >= p.x + p.from * p.width && screen.x <= p.x + p.to * p.width) ??
      panes[0];
    const picture = apply(invert(pictureToPane(camera, info, pane)), screen.x - pane.x, screen.y - pane.y);
    return { pane, at: { screen, picture } };
  };

  const onPointerDown = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button > 1 || !info) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    e.currentTarget.focus({ preventScroll: true });
    const { pane, at } = locate(e);
    const { spot, part } = (e.target as Element).closest<SVGElement>('[data-spot]')?.dataset ?? {};
    const target: Target = spot ? { kind: part as 'spot' | 'patch' | 'reach', id: spot } : { kind: 'empty' };
    if (playing) setBench({ playing: false });
    held.current = { pane, state: press(target, at, pane, e.button === 1 || e.shiftKey) };
  };
  const onPointerMove = (e: PointerEvent<HTMLDivElement>) => {
    if (held.current) held.current.state.move(locate(e, held.current.pane).at);
  };
  const onPointerUp = () => {
    held.current?.state.end();
    held.current = null;
  };

  return (
    <div
      ref={host}
      role="application"
      aria-label={`Picture, frame ${shown}. Press to place a spot; arrow keys step; I J K L nudge the selected spot.`}
      tabIndex={0}
      className={`ground relative h-full w-full touch-none overflow-hidden select-none ${station === 'spots' ? 'cursor-crosshair' : 'cursor-grab'}`}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerCancel={onPointerUp}
      onWheel={(e) => {
        const { pane, at } = locate(e);
        const factor = Math.exp(-e.deltaY * 0.0016);
        setBench({
          camera: zoomAbout(camera, info, pane, at.screen.x - pane.x, at.screen.y - pane.y, factor),
        });
      }}
      onContextMenu={(e) => e.preventDefault()}
    >
      <svg className="absolute inset-0 h-full w-full" aria-hidden="true">
        {panes.map((pane) => {
          const toPane = pictureToPane(camera, info, pane);
          const clip = `pane-${pane.kind}`;
          const left = pane.from * pane.width;
          const steadied = pane.kind === 'steadied';
          const matrix = steadied ? chain(toPane, pictureMatrix(steady, shown, info)) : toPane;
          return (
            <g key={pane.kind} transform={`translate(${pane.x} ${pane.y})`} clipPath={`url(#${clip})`}>
              <clipPath id={clip}>
                <rect x={left} y={0} width={(pane.to - pane.from) * pane.width} height={pane.height} />
              </clipPath>
              {!steadied && map && <MapOverlay map={map} toPane={matrix} />}
              {!steadied &&
                document.spots.map(
                  (s) =>
                    tracks[s.id] && (
                      <SpotPath
                        key={s.id}
                        spot={s}
                        track={preview?.spot === s.id ? preview.track : tracks[s.id]}
                        toPane={matrix}
                      />
                    ),
                )}
              {!steadied &&
                suggestions.map((s, i) => {
                  const p = apply(matrix, s.x, s.y);
                  return (
                    <g
                      key={`${s.x} ${s.y}`}
                      className="cursor-pointer"
                      onPointerDown={(e) => {
                        e.stopPropagation();
                        takeSuggestions([s]);
                      }}
                    >
                      <title>{`Suggestion ${i + 1}: ± ${s.grip.error.toFixed(2)} px. Press to place it.`}</title>
                      <circle
                        cx={p.x}
                        cy={p.y}
                        r={11}
                        fill="#000"
                        fillOpacity={0.35}
                        stroke="#000"
                        strokeWidth={3.4}
                      />
                      <circle
                        cx={p.x}
                        cy={p.y}
                        r={11}
                        fill="none"
                        stroke="var(--color-primary)"
                        strokeWidth={1.6}
                        strokeDasharray="4 2.5"
                      />
                      <text
                        x={p.x}
                        y={p.y + 4}
                        textAnchor="middle"
                        fontSize={11}
                        className="num select-none"
                        fill="#e8e2d4"
                      >
                        {i + 1}
                      </text>
                    </g>
                  );
                })}
              {!steadied && rectangle && <RectangleMark rectangle={rectangle} toPane={matrix} />}
              {(working || !steadied) &&
                document.spots
                  .filter((s) => !magnifier || magnifier.spot === s.id)
                  .map((s) => (
                    <SpotMark
                      key={s.id}
                      spot={s}
                      track={tracks[s.id] ?? EMPTY_TRACK}
                      frame={shown}
                      toPane={matrix}
                      patchPlace={s.joins.length > 0 ? patchAt(s, shown) : null}
                      grip={steadied || !working ? undefined : grips[s.id]}
                      selected={selected.includes(s.id)}
                      handles={!steadied && working && !tracking}
                    />
                  ))}
            </g>
          );
        })}
        {layout === 'wipe' && (
          <line
            x1={wipe * size.width}
            x2={wipe * size.width}
            y1={0}
            y2={size.height}
            stroke="#e8e2d4"
            strokeWidth={1.5}
          />
        )}
        {magnifier && <Magnifier width={size.width} height={size.height} />}
      </svg>
      {panes.map((pane) => (
        <div
          key={pane.kind}
          className="pointer-events-none absolute bottom-2 flex gap-2 rounded-sm bg-black/65 px-1.5 py-0.5 text-xs text-[#e8e2d4]"
          style={layout === 'wipe' && pane.kind === 'steadied' ? { right: 8 } : { left: pane.x + 8 }}
        >
          <span>{TITLES[pane.kind]}</span>
          <span className="num">{Math.round(scaleOf(camera, info, pane) * 100)} %</span>
          {eyeView && selected.length > 0 && <span className="text-warning">tracker’s eye</span>}
          {pane.kind === 'steadied' && !steady && <span>as shot: nothing tracked yet</span>}
        </div>
      ))}
      {layout === 'wipe' && <WipeHandle at={wipe * size.width} width={size.width} />}
      {tool && !magnifier && (
        <p
          className="pointer-events-none absolute top-3 left-3 rounded-sm bg-black/65 px-2 py-1 text-[#e8e2d4]"
          role="status"
        >
          {tool.kind === 'rectangle'
            ? 'Draw a rectangle over the part that should hold.'
            : tool.kind === 'byHand'
              ? 'Press where the spot is: it is pinned, and the playhead steps on. Esc ends.'
              : 'Press on another feature of the same thing: the path goes on from it. Esc ends.'}
        </p>
      )}
      {document.spots.length === 0 && station === 'spots' && !magnifier && !tool && (
        <p className="pointer-events-none absolute top-3 left-3 rounded-sm bg-black/65 px-2 py-1 text-[#e8e2d4]">
          Press on a corner of something that should stand still, and drag to place it exactly.
        </p>
      )}
    </div>
  );
}

/** Of the places that hold at all, these shares are marked strongly and lightly. */
const BEST = 0.08;
const GOOD = 0.25;

/** Where patches hold best in this picture, as cells: the firmest strongly, the next lightly, the rest not at all. */
function MapOverlay({ map, toPane }: { readonly map: GripMap; readonly toPane: Matrix3 }) {
  const paths = useMemo(() => {
    const sorted = [...map.errors].filter((e) => e < 0.5).sort((p, q) => p - q);
    const [best, good] = [BEST, GOOD].map((share) => sorted[Math.floor(share * sorted.length)] ?? 0);
    const d = { firm: '', fair: '' };
    map.errors.forEach((error, k) => {
      if (error >= good) return;
      d[error < best ? 'firm' : 'fair'] +=
        `M${(k % map.columns) * map.step} ${Math.floor(k / map.columns) * map.step}h${map.step}v${map.step}h${-map.step}Z`;
    });
    return d;
  }, [map]);
  const [a, b, c, d, e, f] = toPane;
  return (
    <g transform={`matrix(${a} ${d} ${b} ${e} ${c} ${f})`} pointerEvents="none" data-testid="grip-map">
      <path d={paths.fair} fill="var(--color-primary)" opacity={0.22} />
      <path d={paths.firm} fill="var(--color-primary)" opacity={0.5} />
    </g>
  );
}

function RectangleMark({
  rectangle: [left, top, right, bottom],
  toPane,
}: {
  readonly rectangle: readonly [number, number, number, number];
  readonly toPane: Matrix3;
}) {
  const [p, q] = [apply(toPane, left, top), apply(toPane, right, bottom)];
  const d = `M${p.x} ${p.y}H${q.x}V${q.y}H${p.x}Z`;
  return (
    <g fill="none" pointerEvents="none">
      <path d={d} stroke="#000" strokeOpacity={0.7} strokeWidth={3} />
      <path d={d} stroke="#e8e2d4" strokeWidth={1.3} strokeDasharray="6 4" />
    </g>
  );
}

function WipeHandle({ at, width }: { readonly at: number; readonly width: number }) {
  return (
    <input
      type="range"
      aria-label="Place of the wipe, per cent"
      min={2}
      max={98}
      value={Math.round((at / width) * 100)}
      className="range range-xs absolute top-2 left-1/2 w-40 -translate-x-1/2"
      onPointerDown={(e) => e.stopPropagation()}
      onChange={(e) => setBench({ wipe: Number(e.target.value) / 100 })}
    />
  );
}

/** Outlines and scale of the magnifier; its pixels are drawn by the worker. */
function Magnifier({ width, height }: { readonly width: number; readonly height: number }) {
  const magnifier = useBench((s) => s.magnifier)!;
  const spots = useShot((s) => s.state.document.spots);
  const grip = useBench((s) => s.grips[s.magnifier?.spot ?? '']);
  const spot = spots.find((s) => s.id === magnifier.spot);
  if (!spot) return null;
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
