import { useMemo, useRef, type PointerEvent } from 'react';
import { apply, invert } from '@lurn/core';
import type { ClipFile } from '@lurn/media';
import { layOut, pictureToPane, scaleOf, zoomAbout, type PaneRect } from '../../../lib/view';
import { setBench, useBenchParts } from '../../../state/bench';
import { useShot } from '../../../state/shot';
import { Magnifier } from './Magnifier';
import { PaneMarks } from './PaneMarks';
import { press, type PointerState, type Target } from './pointer';
import { usePicture } from './usePicture';

/** What a press lands on. */
function targetOf(element: Element): Target {
  const { spot, part } = element.closest<SVGElement>('[data-part]')?.dataset ?? {};
  if (part === 'crosshair' || part === 'lock') return { kind: part };
  return spot ? { kind: part as 'spot' | 'patch' | 'reach', id: spot } : { kind: 'empty' };
}

/** Source and steadied picture on one playhead, zoom and pan, with the spots on them. */
export function TwinView({ file }: { readonly file: ClipFile }) {
  const host = useRef<HTMLDivElement>(null);
  const held = useRef<{ state: PointerState; pane: PaneRect } | null>(null);
  const size = usePicture(host, file);
  const { layout, wipe, blinked, camera, info, selected, shown, steady, magnifier, station, playing } =
    useBenchParts(
      'layout',
      'wipe',
      'blinked',
      'camera',
      'info',
      'selected',
      'shown',
      'steady',
      'magnifier',
      'station',
      'playing',
    );
  const { tool, eyeView, waiting } = useBenchParts('tool', 'eyeView', 'waiting');
  const document = useShot((s) => s.state.document);
  const panes = useMemo(
    () => layOut(layout, size.width, size.height, wipe, blinked),
    [layout, size, wipe, blinked],
  );
  const titleOf = (kind: PaneRect['kind']) => {
    if (kind === 'source') return 'Source';
    if (layout === 'difference') return `Steadied, difference from frame ${document.ref}`;
    return layout === 'onion' ? `Steadied, frame ${document.ref} laid over` : 'Steadied';
  };

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
    const target = targetOf(e.target as Element);
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
        {panes.map((pane) => (
          <PaneMarks key={pane.kind} pane={pane} />
        ))}
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
          <span>{titleOf(pane.kind)}</span>
          <span className="num">{Math.round(scaleOf(camera, info, pane) * 100)} %</span>
          {eyeView && selected.length > 0 && <span className="text-warning">tracker’s eye</span>}
          {pane.kind === 'steadied' && waiting && !playing && <span>reading other frames …</span>}
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

function WipeHandle({ at, width }: { readonly at: number; readonly width: number }) {
  return (
    <input
      type="range"
      aria-label="Place of the wipe, per cent"
      min={2}
      max={98}
      value={Math.round((at / width) * 100)}
      className="slide absolute top-2 left-1/2 w-40 -translate-x-1/2"
      onPointerDown={(e) => e.stopPropagation()}
      onChange={(e) => setBench({ wipe: Number(e.target.value) / 100 })}
    />
  );
}
