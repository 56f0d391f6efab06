import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium } from '@playwright/test';
import { compose, givenBack, type LookLayer, type Raster } from '@lurn/core/compose';
import { apply, invert, quadToQuad, rectangle } from '@lurn/core/geometry';
import { createPlane, type Plane } from '@lurn/core/picture';
import {
  closedBy,
  EMPTY_SURFACE_TRACK,
  farthestApart,
  quadOn,
  trackSurfaces,
  withSurfaceSamples,
} from '@lurn/core/track';
import { ffmpegPath } from '@lurn/engine';
import {
  cornersAbout,
  drawnOutline,
  newDocument,
  NEW_CONCEAL,
  NEW_EDGE,
  NEW_LAYER,
  NEW_TEXT_STYLE,
  parseMarks,
  type Layer,
} from '@lurn/model';
import { BenchDriver } from '../e2e/bench-page.js';
import { TestServer } from '../e2e/server.js';
import { InMemory } from './made-up.js';
import { median } from './median.js';
import { planesOf } from './planes.js';
import { seenWhilePlaying } from './playing.js';
import { speedClip } from './speed-clips.js';
import { panelClip } from './surface-clips.js';
import type { Show } from './tracking.js';

/** Work that rides: how exact it is on our own track of a panel, and what it costs. `-- layers [panel|render|play]` */

const run = promisify(execFile);
const ROUNDS = 3;

export async function layers(show: Show, part?: string): Promise<void> {
  if (!part || part === 'panel') for (const seed of [3, 4, 5]) await panel(show, seed);
  if (!part || part === 'render') await rendering(show);
  if (!part || part === 'play') await playing(show);
}

const [ACROSS, DOWN] = [220, 160];
/** A graphic of one channel's brightness, smooth, and bright against what is there. */
const lightAt = (u: number, v: number) => 0.55 + 0.2 * Math.sin(u / 14) * Math.cos(v / 11);

function graphic(): Raster {
  const [w, h] = [2 * ACROSS, 2 * DOWN];
  const data = new Uint8Array(4 * w * h).fill(255);
  for (let y = 0, k = 0; y < h; y++)
    for (let x = 0; x < w; x++, k += 4) data.fill(255 * lightAt((x + 0.5) / 2, (y + 0.5) / 2), k, k + 3);
  return { width: w, height: h, data };
}

/** A graphic on a leaning panel, the bar before it ignored and kept in front: by our own track, against exact truth. */
async function panel(show: Show, seed: number): Promise<void> {
  const clip = await panelClip('bar ignored', seed);
  const planes = await planesOf(clip.file);
  const shape = clip.corners[0].map((p) => [p.x, p.y]);
  const ignore = [{ name: 'bar', keys: clip.ignore }];
  const marks = parseMarks(
    JSON.stringify({ surfaces: [{ name: 'panel', frame: 0, shape }], ignore }),
    planes[0],
    clip.frames,
  );
  const [surface] = marks.surfaces;
  let track = withSurfaceSamples(EMPTY_SURFACE_TRACK, [
    { frame: 0, corners: surface.base, confidence: 1, state: 'pinned' },
  ]);
  const source = closedBy(new InMemory(planes), marks.areas);
  for await (const step of trackSurfaces(source, { surfaces: marks.surfaces, from: 0, to: clip.frames - 1 }))
    track = withSurfaceSamples(
      track,
      step.samples.map((s) => s.sample),
    );
  const ride = { on: 'surface', track, base: surface.base } as const;
  const bar = { smooth: false, keys: clip.ignore, grow: 0, soften: 0 };
  const layer: LookLayer = {
    ...{ id: 'g', frame: 0, ride, unknown: 'bridge', from: 0, to: Infinity, middle: { x: 0, y: 0 } },
    ...{ content: { kind: 'raster', raster: 'g', corners: clip.corners[0] }, outline: null, margin: 0 },
    ...{ opacity: 1, keys: [], blend: 'normal', grain: 0 },
    mattes: [[{ kind: 'outline', outline: bar, frame: 0, ride: { on: 'frame' }, outside: true }]],
  };
  const raster = graphic();
  let [squares, n, edge] = [0, 0, 0];
  const { width, height } = planes[0];
  for (let f = 0; f < clip.frames; f++) {
    const scene = givenBack(
      planes[0],
      { edges: { mode: 'colour', colour: [0, 0, 0] }, layers: [layer], base: true },
      f,
      {},
    );
    const out = createPlane(width, height);
    const half = () => ({ ...createPlane(width / 2, height / 2), data: grey.slice() });
    const grey = new Uint8Array((width * height) / 4).fill(128);
    const of = (y: Plane) => ({ y, u: half(), v: half(), subsampling: { x: 2, y: 2 } as const });
    compose(scene, () => of(planes[f]), of(out), {
      ...{ siting: 'left', fill: [16, 128, 128], rasters: () => raster },
      code: { range: 'tv', space: 'bt709', height },
    });
    edge = Math.max(edge, farthestApart(clip.corners[f], quadOn(surface.base, clip.corners[0], track, f)!));
    const [left, right] = barOn(clip.ignore, f);
    const back = invert(quadToQuad(rectangle(0, 0, ACROSS, DOWN), clip.corners[f])!);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const p = apply(back, x + 0.5, y + 0.5);
        const inside = p.x > 1 && p.y > 1 && p.x < ACROSS - 1 && p.y < DOWN - 1;
        if (!inside || (x > left - 2 && x < right + 2)) continue;
        squares += (out.data[y * width + x] - (16 + 219 * lightAt(p.x, p.y))) ** 2;
        n++;
      }
  }
  show(
    `graphic on our own track of a leaning panel, texture ${seed}: inside, and its edges at the worst`,
    `${(10 * Math.log10(255 ** 2 / (squares / n))).toFixed(1)} dB, ${edge.toFixed(2)} px`,
    '>= 32 dB, <= 0.5 px',
  );
}

/** Where the bar is on a frame: between its keys it goes in a line. */
function barOn(
  keys: readonly { readonly frame: number; readonly shape: readonly [number, number][] }[],
  f: number,
) {
  const [a, b] = keys;
  const t = f / b.frame;
  return [0, 1].map((i) => a.shape[i][0] + t * (b.shape[i][0] - a.shape[i][0]));
}

async function rendering(show: Show): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-layers-'));
  const { file } = await speedClip(1920, 1080, 120);
  const ratios: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    const code = ['-c:v', 'libx264', '-preset', 'medium', '-crf', '18', join(folder, 'plain.mp4')];
    const start = performance.now();
    await run(await ffmpegPath(), ['-y', '-v', 'error', '-i', file, ...code]);
    const bare = (performance.now() - start) / 1000;
    const args = [
      'tsx',
      'bench/render-child.ts',
      file,
      join(folder, 'out.mp4'),
      '120',
      'medium',
      '18',
      'layers',
    ];
    const { stdout } = await run('npx', args);
    ratios.push((JSON.parse(stdout) as { seconds: number }).seconds / bare);
  }
  await rm(folder, { recursive: true });
  show(
    'render with graphic, conceal and 200 strokes / a bare transcode, 1080p',
    median(ratios).toFixed(2),
    '<= 1.8',
  );
}

/** The same kinds of layers on the Bench, riding on the whole picture, both views. */
async function playing(show: Show): Promise<void> {
  const made = await speedClip(1920, 1080, 300);
  const server = await TestServer.start();
  await server.upload('rails.mp4', await readFile(made.file));
  await server.clip('rails');
  while (!(await server.clip('rails')).made?.scene) await new Promise((resume) => setTimeout(resume, 500));
  const clip = { width: 1920, height: 1080, frames: made.frames };
  const common = (id: string) => ({
    ...{ ...NEW_LAYER, id, name: id, frame: 0 },
    rides: { on: 'mover' as const, id: 'scene-1', rotation: true, scale: true },
  });
  const round = Array.from({ length: 12 }, (_, i) => {
    const a = (i / 6) * Math.PI;
    return [1300 + 110 * Math.cos(a), 640 + 110 * Math.sin(a)] as const;
  });
  const all: Layer[] = [
    {
      ...{ ...common('text'), kind: 'text', text: 'Ridge line', style: NEW_TEXT_STYLE, edge: NEW_EDGE },
      corners: cornersAbout(960, 300, 576, 270),
    },
    { ...common('conceal'), ...NEW_CONCEAL, outline: drawnOutline(0, round, true, 8) },
    {
      ...{ ...common('paint'), kind: 'paint' },
      strokes: Array.from({ length: 200 }, (_, i) => ({
        ...({ tool: 'brush', colour: '#c8b43c', size: 18, hardness: 0.6, flow: 0.8 } as const),
        ...({ from: null, on: 'all', frame: 0 } as const),
        points: Array.from(
          { length: 8 },
          (_, k) => [200 + ((i * 37) % 560) + 9 * k, 600 + ((i * 53) % 320) + 6 * (k % 2), 1] as const,
        ),
      })),
    },
  ];
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const bench = new BenchDriver(page, clip);
  const rateWith = async (shown: Layer[]) => {
    await server.save('rails', { document: { ...newDocument(clip), layers: shown }, measured: {} });
    await bench.open(server.url, 'rails');
    await bench.key('7');
    await page.getByTestId('view').getByRole('button', { name: 'Both', exact: true }).click();
    await page.waitForTimeout(3000);
    const rates: number[] = [];
    for (let round = 0; round < ROUNDS; round++) rates.push((await seenWhilePlaying(page)) / 30);
    return median(rates);
  };
  const without = await rateWith([]);
  const withThree = await rateWith(all);
  show(
    'pictures seen / pictures of the clip, 1080p, both views: without layers, with three',
    `${without.toFixed(2)}, ${withThree.toFixed(2)}`,
    '>= 0.9',
  );
  await browser.close();
  await server.stop();
}
