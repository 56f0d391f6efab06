import { useEffect, useMemo, useRef, type PointerEvent } from 'react';
import { apply, invert } from '@lurn/core/geometry';
import { sampleAt } from '@lurn/core/track';
import { trackOf } from '@lurn/model';
import { Notices } from '../../../components/Notices';
import { layOut, pictureToPane, scaleOf, zoomAbout, type PaneRect } from '../../../lib/view';
import { removeCorner, type OutlineRef } from '../../../state/outlines';
import { showsAt } from '../../../state/stations';
import { bench, setBench, useBenchParts } from '../../../state/bench';
import { shotState, useShot } from '../../../state/shot';
import { Hand, hintOf, type Target } from '../tools';
import { Awaited, FirstLook } from './FirstLook';
import { Magnifier } from './Magnifier';
import { PaneMarks } from './PaneMarks';
import { rememberPointer } from './pointer-place';
import { usePicture, type PictureFrom } from './usePicture';

/** What a press lands on. */
function targetOf(element: Element): Target {
  const { spot, area, surface, soft, outline, layer, matte, part, index } =
    element.closest<SVGElement>('[data-part]')?.dataset ?? {};
  if (part === 'crosshair' || part === 'lock') return { kind: part };
  const at = Number(index ?? 0);
  const drawn = (of: OutlineRef): Target => ({
    ...{ kind: 'outline', outline: of, index: at },
    part: part as 'line' | 'corner' | 'edge',
  });
  if (area) return drawn({ of: 'area', id: area });
  if (surface)
    return outline === undefined
      ? { kind: 'quad', surface, index: at }
      : drawn({ of: 'surface', id: surface, index: Number(outline) });
  if (soft) return { kind: part === 'laid' ? 'laid' : 'vertex', soft, index: at };
  if (layer)
    return outline === undefined
      ? { ...{ kind: 'placed', layer, index: at }, part: part as Extract<Target, { kind: 'placed' }>['part'] }
      : drawn({ of: 'layer', id: layer, matte: matte ?? null });
  return spot ? { kind: part as 'spot' | 'patch' | 'reach', id: spot } : { kind: 'empty' };
}

/** Screen pixels a source pixel that a double press on a spot zooms to, at the least. */
const CLOSE = 6;
/** Two presses so soon after each other, in milliseconds, and so near, in screen pixels, are a double press. */
const DOUBLE_MS = 450;
const SAME_PLACE = 5;

/** Source and steadied picture on one playhead, zoom and pan, with the spots on them. */
export function TwinView({ file, reduced, lender }: PictureFrom) {
  const host = useRef<HTMLDivElement>(null);
  const held = useRef<PaneRect | null>(null);
  const size = usePicture(host, { file, reduced, lender });
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
  const { tool, eyeView, waiting, reducedTo, bare, pictured, scene, clip } = useBenchParts(
    'tool',
    'eyeView',
    'waiting',
    'reducedTo',
    'bare',
    'pictured',
    'scene',
    'clip',
  );
  const document = useShot((s) => s.state.document);
  const hand = useHand();
  const lastPress = useRef({ time: -Infinity, x: 0, y: 0 });
  const panes = useMemo(
    () => layOut(layout, size.width, size.height, wipe, blinked),
    [layout, size, wipe, blinked],
  );
  const givesBack = document.layers.some((l) => l.shown) && !bare && !showsAt(station).marks;
  const titleOf = (kind: PaneRect['kind']) => {
    if (kind === 'source') return givesBack ? 'As shot, layers given back' : 'Source';
    if (layout === 'difference') return `Steadied, difference from frame ${document.ref}`;
    return layout === 'onion' ? `Steadied, frame ${document.ref} laid over` : 'Steadied';
  };

  const locate = (
    e: { clientX: number; clientY: number; pointerType?: string; pressure?: number },
    fixed?: PaneRect,
  ) => {
    const box = host.current!.getBoundingClientRect();
    const screen = { x: e.clientX - box.left, y: e.clientY - box.top };
    const pane =
      fixed ??
      panes.find((p) => screen.x >= p.x + p.from * p.width && screen.x <= p.x + p.to * p.width) ??
      panes[0];
    const picture = apply(invert(pictureToPane(camera, info, pane)), screen.x - pane.x, screen.y - pane.y);
    // A mouse tells 0.5 while it is pressed: only a pen tells how hard.
    const pen = 'pointerType' in e && e.pointerType === 'pen' ? { pressure: Number(e.pressure) } : {};
    return { pane, at: { screen, picture, ...pen } };
  };

  const onPointerDown = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button > 1 || !info) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    e.currentTarget.focus({ preventScroll: true });
    const { pane, at } = locate(e);
    if (playing) setBench({ playing: false });
    const target = targetOf(e.target as Element);
    // The second press of a double press asks to look closer, not for a second spot on the first.
    const { time, x, y } = lastPress.current;
    const again = e.timeStamp - time < DOUBLE_MS && Math.hypot(e.clientX - x, e.clientY - y) < SAME_PLACE;
    lastPress.current = { time: e.timeStamp, x: e.clientX, y: e.clientY };
    if (again && 'id' in target) {
      zoomTo(target.id, Math.max(CLOSE, 2 * scaleOf(camera, info, panes[0])));
      return;
    }
    if (again && target.kind === 'outline' && target.part === 'corner') {
      removeCorner(target.outline, target.index);
      return;
    }
    held.current = pane;
    const pans = e.button === 1 || e.shiftKey || (again && target.kind === 'empty');
    hand.current?.tool.down({ at, target, pane, pans, alt: e.altKey });
  };
  const onPointerMove = (e: PointerEvent<HTMLDivElement>) => {
    const { pane, at } = locate(e, held.current ?? undefined);
    rememberPointer({ x: at.screen.x - pane.x, y: at.screen.y - pane.y });
    if (held.current) hand.current?.tool.move(at);
  };
  const release = (end: 'up' | 'cancel') => {
    held.current = null;
    hand.current?.tool[end]();
  };
  const hint = magnifier ? null : hintOf(tool);

  return (
    <div
      ref={host}
      role="application"
      aria-label={`Picture, frame ${shown}. Press to place a spot; arrow keys step, with Alt they nudge the selected spot.`}
      aria-busy={!pictured || (!scene && Boolean(clip.made?.scene))}
      data-layout={layout}
      tabIndex={0}
      className={`ground relative h-full w-full touch-none overflow-hidden select-none ${showsAt(station).places ? 'cursor-crosshair' : 'cursor-grab'}`}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={() => release('up')}
      onPointerCancel={() => release('cancel')}
      onPointerLeave={() => rememberPointer(null)}
      onKeyDown={(e) => {
        if (!hand.current?.tool.key(e.key)) return;
        e.stopPropagation();
        held.current = null;
      }}
      onWheel={(e) => {
        const { pane, at } = locate(e);
        const factor = Math.exp(-e.deltaY * 0.0016);
        setBench({
          camera: zoomAbout(camera, info, pane, at.screen.x - pane.x, at.screen.y - pane.y, factor),
        });
      }}
      onContextMenu={(e) => e.preventDefault()}
    >
      <FirstLook panes={panes} />
      <svg className="absolute inset-0 h-full w-full" aria-hidden="true">
        {/* Marks belong to the picture that is seen: before there is one there are none. */}
        {pictured && panes.map((pane) => <PaneMarks key={pane.kind} pane={pane} />)}
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
          {reducedTo && (
            <span
              className="num"
              title="While the picture moves a reduced copy is shown; at rest, magnified and measured it is the full picture"
            >
              reduced to {reducedTo.height} lines
            </span>
          )}
          {eyeView && selected.length > 0 && <span className="text-warning">tracker’s eye</span>}
          {pane.kind === 'steadied' && waiting && !playing && <span>reading other frames …</span>}
          {pane.kind === 'steadied' && !steady && <span>as shot: nothing held yet</span>}
        </div>
      ))}
      {layout === 'wipe' && <WipeHandle at={wipe * size.width} width={size.width} />}
      <Awaited />
      {hint && (
        <p
          className="pointer-events-none absolute top-3 left-3 rounded-sm bg-black/65 px-2 py-1 text-[#e8e2d4]"
          role="status"
        >
          {hint}
        </p>
      )}
      {/* Messages lie on the picture, above its labels: nothing is read there while they are up. */}
      <div onPointerDown={(e) => e.stopPropagation()} onDoubleClick={(e) => e.stopPropagation()}>
        <Notices offset={34} style={{ position: 'absolute' }} />
      </div>
    </div>
  );
}

/** The tool in the hand for as long as the view is there. */
function useHand() {
  const hand = useRef<Hand>(null);
  useEffect(() => {
    hand.current = new Hand();
    return () => hand.current?.close();
  }, []);
  return hand;
}

/** Zooms to a spot where it is on the present frame. */
function zoomTo(id: string, scale: number): void {
  const sample = sampleAt(trackOf(shotState(), id), bench().frame);
  if (sample) setBench({ camera: { scale, x: sample.x, y: sample.y } });
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
