import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { moveQuad, quadToQuad, type Quad } from '@lurn/core/geometry';
import { closedBy, farthestApart, trackSurfaces, type SurfaceSample } from '@lurn/core/track';
import { FileFrames, indexClip } from '@lurn/engine';
import { parseMarks } from '@lurn/model';
import { InMemory } from './made-up.js';
import { planesOf } from './planes.js';
import { PANEL_KINDS, panelClip, type PanelClip } from './surface-clips.js';
import type { Show } from './tracking.js';

/** Flat surfaces against truth, and what they cost beside the peer. `-- surface [kind|speed]` */

const run = promisify(execFile);
const PEER = process.env.LURN_PEER ?? '../shared/peers/opencv.py';
const PYTHON = '/usr/bin/python3';
/** Root mean square and largest distance of the worst corner, in pixels. */
const GOALS: Record<string, readonly [number, number]> = {
  'bar across': [0.3, 1.5],
  'bar ignored': [0.15, 0.8],
  heavy: [0.5, Infinity],
  'half out': [0.6, Infinity],
  hidden: [0.6, Infinity],
  shiny: [0.3, Infinity],
};
const SEEDS = [3, 4, 5];

export async function surface(show: Show, only?: string): Promise<void> {
  const sure = { all: 0, right: 0 };
  for (const kind of PANEL_KINDS) {
    if (only && only !== kind) continue;
    for (const seed of SEEDS) {
      const clip = await panelClip(kind, seed);
      const found = await tracked(clip);
      const { rms, most, missing, again, early, late } = errorsOf(clip, found, sure);
      const [wantedRms, wantedMost] = GOALS[kind] ?? [0.3, Infinity];
      const wanted = wantedMost < Infinity ? `<= ${wantedRms}, <= ${wantedMost}` : `<= ${wantedRms}`;
      show(
        `flat surface, ${kind}, texture ${seed}: worst corner, RMS and ever`,
        `${rms.toFixed(3)} ${most.toFixed(3)}`,
        wanted,
      );
      if (missing > 0) show('    frames not found while it could be seen', String(missing), '0');
      if (again !== null) show('    found again after so many frames', String(again), '<= 2');
      if (kind === 'clean')
        show('    error in the last tenth against the middle one', (late / early).toFixed(2), '<= 1');
    }
  }
  if (sure.all > 0)
    show(
      'flat surfaces: every corner within 0.5 px where the confidence is 0.9 or more',
      `${((100 * sure.right) / sure.all).toFixed(1)} %`,
      '>= 95 %',
    );
  if (!only || only === 'speed') await speed(show);
}

function marksOf({ corners, ignore }: PanelClip): string {
  const shape = corners[0].map((p) => [p.x, p.y]);
  return JSON.stringify({
    surfaces: [{ name: 'panel', frame: 0, shape }],
    ignore: ignore.length ? [{ name: 'bar', keys: ignore }] : [],
  });
}

async function tracked(clip: PanelClip): Promise<Map<number, SurfaceSample>> {
  const planes = await planesOf(clip.file);
  const { surfaces, areas } = parseMarks(marksOf(clip), planes[0], clip.frames);
  const source = closedBy(new InMemory(planes), areas);
  const found = new Map<number, SurfaceSample>();
  for await (const step of trackSurfaces(source, { surfaces, from: 0, to: clip.frames - 1 }))
    for (const { sample } of step.samples) found.set(sample.frame, sample);
  return found;
}

/** How far the worst corner of the panel is off, where it can be seen. */
function errorsOf(
  clip: PanelClip,
  found: ReadonlyMap<number, SurfaceSample>,
  sure: { all: number; right: number },
) {
  const { base } = parseMarks(marksOf(clip), { width: 640, height: 360 }, clip.frames).surfaces[0];
  const off = clip.corners.map((quad, frame) => {
    const sample = found.get(frame);
    if (!sample || sample.state !== 'tracked') return null;
    const error = farthestApart(quad, moveQuad(quadToQuad(base, sample.corners)!, clip.corners[0]));
    if (sample.confidence >= 0.9) {
      sure.all++;
      if (error <= 0.5) sure.right++;
    }
    return error;
  });
  const seen = off.map((e, f) => (f > 0 && !clip.hidden(f) ? e : null));
  const told = seen.filter((e): e is number => e !== null);
  const missing = seen.filter((e, f) => f > 0 && !clip.hidden(f) && e === null).length;
  const back = clip.corners.findIndex((_, f) => f > 0 && clip.hidden(f - 1) && !clip.hidden(f));
  const again = back < 0 ? null : off.slice(back).findIndex((e) => e !== null) + 1;
  const rmsOf = (list: readonly (number | null)[]) => {
    const known = list.filter((e): e is number => e !== null);
    return Math.sqrt(known.reduce((s, e) => s + e * e, 0) / known.length);
  };
  const n = off.length;
  const tenth = Math.round(n / 10);
  return {
    ...{ rms: rmsOf(told), most: Math.max(...told), missing, again },
    early: rmsOf(off.slice(n / 2 - tenth / 2, n / 2 + tenth / 2)),
    late: rmsOf(off.slice(n - tenth)),
  };
}

async function speed(show: Show): Promise<void> {
  const clip = await panelClip('bar across', SEEDS[0]);
  const planes = await planesOf(clip.file);
  const { surfaces } = parseMarks(marksOf(clip), planes[0], clip.frames);
  const begin = process.cpuUsage();
  for await (const _ of trackSurfaces(new InMemory(planes), { surfaces, from: 0, to: clip.frames - 1 }));
  const { user, system } = process.cpuUsage(begin);
  const own = (user + system) / 1000 / (clip.frames - 1);
  show(
    'flat surface of about 300 x 220 px: a frame, one thread, decoding excluded',
    `${own.toFixed(1)} ms`,
    '-',
  );
  const { info } = await indexClip(clip.file);
  const file = new FileFrames(clip.file, info);
  const start = performance.now();
  for await (const _ of trackSurfaces(file, { surfaces, from: 0, to: clip.frames - 1 }));
  const seconds = (performance.now() - start) / 1000;
  file.close();
  show('flat surface: frames a second, decoding included', ((clip.frames - 1) / seconds).toFixed(1), '>= 15');
  if (!existsSync(PEER) || !existsSync(PYTHON)) return;
  const folder = await mkdtemp(join(tmpdir(), 'lurn-flat-'));
  try {
    const marks = join(folder, 'marks.json');
    const out = join(folder, 'out.csv');
    await writeFile(marks, marksOf(clip));
    const { stdout } = await run(PYTHON, [PEER, 'flat', clip.file, marks, out]);
    const peer = (JSON.parse(stdout.trim().split('\n').pop()!) as { ms_per_frame: number }).ms_per_frame;
    show('flat surface: a frame against native ECC of the whole shape', (own / peer).toFixed(3), '<= 0.05');
    const rows = (await readFile(out, 'utf8')).trim().split('\n').slice(1);
    const errors = rows.map((row) => {
      const [frame, ...xy] = row.split(',').map(Number);
      const quad = [0, 1, 2, 3].map((k) => ({ x: xy[2 * k], y: xy[2 * k + 1] })) as unknown as Quad;
      return farthestApart(clip.corners[frame], quad);
    });
    const rms = Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / errors.length);
    show(
      '    the peer on the same clip: worst corner, RMS and ever',
      `${rms.toFixed(2)} ${Math.max(...errors).toFixed(2)}`,
      '-',
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
