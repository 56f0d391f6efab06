import { useEffect, useState, type RefObject } from 'react';
import { spaceNamed } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import type { ClipFile } from '@lurn/media';
import { bench, setBench, useBench, type BenchState } from '../../../state/bench';
import { tellColours } from '../../../state/picking';
import { followRasters, rasterFailed } from '../../../state/rasters';
import { useShot } from '../../../state/shot';
import { Comlink } from '../../../workers/comlink';
import type { PictureApi, Shown } from '../../../workers/picture.worker';
import { DrawQueue } from './draw-queue';

/** What of the Bench the picture depends on. */
const DRAWN_FROM = [
  'frame',
  'layout',
  'wipe',
  'camera',
  'steady',
  'tried',
  'blinked',
  'magnifier',
  'playing',
  'tracking',
  'eyeView',
  'selected',
  'bare',
  'masked',
  'station',
] as const satisfies readonly (keyof BenchState)[];

const groundOf = () => (document.documentElement.dataset.theme === 'day' ? 0x8a / 255 : 0x33 / 255);

/** Where the pictures come from. */
export interface PictureFrom {
  readonly file: ClipFile;
  /** A copy in reduced size, for playing; null where none is needed. */
  readonly reduced: ClipFile | null;
  /** Reads pictures too while it measures, and lends them. */
  readonly lender: { readonly lendTo: (viewer: MessagePort) => void };
}

/** Runs the picture's worker over a canvas that fills `host`, and keeps it showing what the Bench is at. */
export function usePicture(
  host: RefObject<HTMLDivElement | null>,
  { file, reduced, lender }: PictureFrom,
): Size {
  const [size, setSize] = useState<Size>({ width: 0, height: 0 });

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
    const { colour, height: lines } = bench().info;
    const onShown = Comlink.proxy(({ frame, waiting, reduced }: Shown) => {
      const now = { shown: frame, pictured: true, waiting, reducedTo: reduced, awaited: null };
      const before = bench();
      const same = before.pictured && before.reducedTo?.height === reduced?.height && before.awaited === null;
      if (!same || before.shown !== frame || before.waiting !== waiting) setBench(now);
    });
    const onWaiting = Comlink.proxy((awaited: number) => setBench({ awaited }));
    const onError = Comlink.proxy((code: string, message: string) =>
      setBench({ problem: { code, message } }),
    );
    const opened = api.open(
      Comlink.transfer(
        {
          canvas: offscreen,
          file,
          reduced,
          coding: { ...colour, space: spaceNamed(colour.space, lines), height: lines },
          ground: groundOf(),
        },
        [offscreen],
      ),
      onShown,
      onWaiting,
      onError,
    );
    const { port1, port2 } = new MessageChannel();
    lender.lendTo(port1);
    void api.borrowFrom(Comlink.transfer(port2, [port2]));
    opened.catch((error: { code?: string; message: string }) =>
      setBench({ problem: { code: error.code ?? 'fault', message: error.message } }),
    );
    const queue = new DrawQueue(api);
    const { show } = queue;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry.contentRect;
      queue.size = { width: Math.floor(width), height: Math.floor(height) };
      setSize(queue.size);
      void opened.then(() =>
        api.resize(Math.round(width * devicePixelRatio), Math.round(height * devicePixelRatio)),
      );
      show();
    });
    observer.observe(element);
    const themes = new MutationObserver(() => void api.setGround(groundOf()));
    themes.observe(document.documentElement, { attributeFilter: ['data-theme'] });
    const stopBench = useBench.subscribe((now, before) => {
      if (DRAWN_FROM.some((key) => now[key] !== before[key])) show();
    });
    const stopShot = useShot.subscribe(show);
    const onRasterFailed = Comlink.proxy((key: string, message: string) => rasterFailed(key, message));
    const stopColours = tellColours({
      colourAt: ({ x, y }) => api.colourAt(x, y),
      regionAt: ({ x, y }, reach) => api.regionAt(x, y, reach),
    });
    const stopRasters = followRasters((sources) => void api.wantRasters(sources, onRasterFailed));
    void opened.then((drafting) => {
      queue.drafting = drafting;
      show();
    });
    return () => {
      queue.close();
      stopBench();
      stopShot();
      stopRasters();
      stopColours();
      observer.disconnect();
      themes.disconnect();
      worker.terminate();
      canvas.remove();
    };
  }, [host, file, reduced, lender]);
  return size;
}
