import * as Comlink from 'comlink';
import { useEffect, useRef, useState, type RefObject } from 'react';
import {
  borrowFor,
  chain,
  deliveredToFrame,
  invert,
  parseColour,
  pictureMatrix,
  scaling,
  translation,
  type BorrowPlan,
  type Matrix3,
  type Steady,
} from '@lurn/core';
import type { ClipFile } from '@lurn/media';
import { deviceToPicture, layOut, pictureToPane, scaleOf } from '../../../lib/view';
import { bench, setBench, useBench } from '../../../state/bench';
import { shotDocument, useShot } from '../../../state/shot';
import type { PictureApi, View, ViewPane } from '../../../workers/picture.worker';
import { magnifierPanes } from './magnifier-panes';

/** A picture that takes longer to draw exactly is drafted first. */
const SLOW_MS = 30;
const SETTLE_MS = 150;
/** Views that are with the worker while it plays, at the most. */
const AHEAD = 2;

const groundOf = () => (document.documentElement.dataset.theme === 'day' ? 0x8a / 255 : 0x33 / 255);

/** Runs the picture's worker over a canvas that fills `host`, and keeps it showing what the Bench is at. */
export function usePicture(
  host: RefObject<HTMLDivElement | null>,
  file: ClipFile,
): { width: number; height: number } {
  const [size, setSize] = useState({ width: 0, height: 0 });
  const live = useRef({ width: 0, height: 0 });

  useEffect(() => {
    const element = host.current!;
    const canvas = document.createElement('canvas');
    canvas.className = 'absolute inset-0 h-full w-full';
    canvas.setAttribute('aria-hidden', 'true');
    element.prepend(canvas);
    const offscreen = canvas.transferControlToOffscreen();
    const worker = new Worker(new URL('../../../workers/picture.worker.ts', import.meta.url), {
      type: 'module',
    });
    const api = Comlink.wrap<PictureApi>(worker);
    const { colour } = bench().info;
    const onShown = Comlink.proxy((shown: number, waiting: boolean) => {
      if (bench().shown !== shown || bench().waiting !== waiting) setBench({ shown, waiting });
    });
    const onError = Comlink.proxy((code: string, message: string) =>
      setBench({ problem: { code, message } }),
    );
    const opened = api.open(
      Comlink.transfer({ canvas: offscreen, file, coding: colour, ground: groundOf() }, [offscreen]),
      onShown,
      onError,
    );
    opened.catch((error: { code?: string; message: string }) =>
      setBench({ problem: { code: error.code ?? 'fault', message: error.message } }),
    );
    // One view at a time: while the worker draws, only the newest is kept for afterwards. While it plays the next one
    // is sent ahead, so that the worker never waits for the page. Where drawing is slow (no graphics card), a quick
    // draft comes first and the exact picture once nothing has changed for a moment.
    let queued = 0;
    let drawing = 0;
    let stale = false;
    let slow = false;
    let settle: ReturnType<typeof setTimeout> | undefined;
    const moving = () => bench().playing || bench().tracking !== null;
    const draw = (draft: boolean) => {
      queued = 0;
      clearTimeout(settle);
      if (live.current.width === 0) return;
      stale = false;
      drawing++;
      api
        .show(viewOf(live.current, draft))
        .then((took) => {
          if (!draft && took > 0) slow = took > SLOW_MS;
          if (draft && !moving()) settle = setTimeout(() => drawing === 0 && draw(false), SETTLE_MS);
        })
        .catch(() => undefined)
        .finally(() => {
          drawing--;
          if (stale) show();
        });
    };
    const show = () => {
      stale = true;
      clearTimeout(settle);
      if (queued || drawing >= (bench().playing ? AHEAD : 1)) return;
      // What plays is in step with the page already.
      if (bench().playing) draw(true);
      else queued = requestAnimationFrame(() => draw(slow || moving()));
    };
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      live.current = { width: Math.floor(width), height: Math.floor(height) };
      setSize(live.current);
      void opened.then(() =>
        api.resize(Math.round(width * devicePixelRatio), Math.round(height * devicePixelRatio)),
      );
      show();
    });
    observer.observe(element);
    const themes = new MutationObserver(() => void api.setGround(groundOf()));
    themes.observe(document.documentElement, { attributeFilter: ['data-theme'] });
    const stopBench = useBench.subscribe((now, before) => {
      const keys = [
        'frame',
        'layout',
        'wipe',
        'camera',
        'steady',
        'blinked',
        'magnifier',
        'playing',
        'tracking',
        'eyeView',
        'selected',
      ] as const;
      if (keys.some((key) => now[key] !== before[key])) show();
    });
    const stopShot = useShot.subscribe(show);
    void opened.then((drafting) => {
      slow = drafting;
      show();
    });
    return () => {
      cancelAnimationFrame(queued);
      clearTimeout(settle);
      stopBench();
      stopShot();
      observer.disconnect();
      themes.disconnect();
      worker.terminate();
      canvas.remove();
    };
  }, [host, file]);
  return size;
}

/** What the worker is to draw, in device pixels. */
function viewOf({ width, height }: { width: number; height: number }, draft: boolean): View {
  const { frame, layout, wipe, camera, steady, info, magnifier, playing, blinked } = bench();
  const ratio = devicePixelRatio;
  const panes = layOut(layout, width, height, wipe, blinked).map((pane): ViewPane => {
    const toPane = pictureToPane(camera, info, pane);
    const cut = pane.from * pane.width;
    const toPicture = deviceToPicture(toPane, cut, ratio);
    const close = scaleOf(camera, info, pane) * ratio >= 6;
    const steadied = pane.kind === 'steadied' && steady !== null;
    const place = {
      x: Math.round((pane.x + cut) * ratio),
      y: Math.round(pane.y * ratio),
      width: Math.round((pane.to - pane.from) * pane.width * ratio),
      height: Math.round(pane.height * ratio),
      quality: draft ? ('linear' as const) : close && !steadied ? ('nearest' as const) : ('cubic' as const),
    };
    if (!steadied) {
      const whole = {
        toFrame: toPicture,
        frameSize: [info.width, info.height] as const,
        toSource: toPicture,
      };
      return { ...place, ...whole, edges: null, over: null };
    }
    return { ...place, ...steadiedPane(steady, frame, toPicture) };
  });
  const insets = magnifier ? magnifierPanes(magnifier, width, height) : [];
  const spot = bench().eyeView && shotDocument().spots.find((s) => bench().selected.includes(s.id));
  return {
    frame,
    eye: spot ? spot.eye : null,
    hurried: playing,
    draft,
    panes: [
      ...panes,
      ...insets.map((inset): ViewPane => {
        const toFrame = chain(invert(inset.toPane), scaling(1 / ratio));
        return {
          x: Math.round(inset.x * ratio),
          y: Math.round(inset.y * ratio),
          width: Math.round(inset.width * ratio),
          height: Math.round(inset.height * ratio),
          toFrame,
          frameSize: [info.width, info.height],
          toSource: toFrame,
          quality: 'nearest',
          edges: null,
          over: null,
        };
      }),
    ],
  };
}

/** The steadied picture in a pane: the delivered part of the frame, its edges, and what is laid over it. */
function steadiedPane(
  plan: Steady,
  frame: number,
  toPicture: Matrix3,
): Pick<ViewPane, 'toFrame' | 'frameSize' | 'toSource' | 'edges' | 'over'> {
  const { layout } = bench();
  const { edges, ref } = shotDocument();
  const { window, size } = plan;
  const corner = translation((window.width - size.width) / 2, (window.height - size.height) / 2);
  const through = (f: number) => chain(invert(pictureMatrix(plan, f)), toPicture);
  const compared = layout === 'onion' || layout === 'difference';
  return {
    toFrame: chain(corner, toPicture),
    frameSize: [window.width, window.height],
    toSource: through(frame),
    edges: {
      mode: edges.mode,
      colour: parseColour(edges.colour),
      toDelivered: chain(invert(deliveredToFrame(plan)), toPicture),
      delivery: plan.delivery,
      donors: edges.mode === 'borrowed' ? borrowed(plan, frame).donors : [],
    },
    over: compared
      ? { frame: ref, toSource: through(ref), laying: layout === 'onion' ? 'half' : 'half negative' }
      : null,
  };
}

let known: {
  readonly plan: Steady;
  readonly from: number;
  readonly to: number;
  readonly frames: Map<number, BorrowPlan>;
} | null = null;

/** From which frames a frame borrows; worked out once for a plan. */
function borrowed(plan: Steady, frame: number): BorrowPlan {
  const { from, to } = shotDocument().range;
  if (known?.plan !== plan || known.from !== from || known.to !== to)
    known = { plan, from, to, frames: new Map() };
  let found = known.frames.get(frame);
  if (!found) known.frames.set(frame, (found = borrowFor(plan, frame, from, to)));
  return found;
}
