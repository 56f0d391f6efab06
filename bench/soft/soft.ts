import { execFile } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { evaluatorOf, type Mesh, type Point } from '@lurn/core/geometry';
import type { Plane } from '@lurn/core/picture';
import {
  EMPTY_SOFT_TRACK,
  makeMesh,
  softAt,
  softSample,
  softWarp,
  trackSoft,
  unbent,
  withSoftSamples,
  type SoftShape,
  type SoftToTrack,
  type SoftTrack,
  type SoftVertex,
} from '@lurn/core/track';
import { InMemory } from '../made-up.js';
import { median } from '../median.js';
import { followedByPeer } from '../peer.js';
import { planesOf } from '../planes.js';
import { softPlaying } from './soft-play.js';
import { CLOTH_ACROSS, CLOTH_DOWN, CLOTH_KINDS, clothClip, type ClothClip } from '../soft-clips.js';
import type { Show } from '../tracking.js';

/** Soft surfaces against truth. `-- soft [kind|mend|speed|play]` */

const run = promisify(execFile);
const SEEDS: Record<string, readonly number[]> = { cloth: [3, 4, 5], heavy: [3, 4], hand: [3, 4] };
/** Root mean square of the vertices, in pixels, and how many per cent may be beyond 3 px. */
const GOALS: Record<string, readonly [number, number]> = {
  cloth: [0.3, 0],
  'plain rim': [0.8, 2],
  heavy: [0.8, 2],
  hand: [0.4, 0],
};
const EYE = { channel: 'luma', soften: 0, detail: 0, localContrast: 0 } as const;
const SPACING = 38;

export async function soft(show: Show, only?: string): Promise<void> {
  const sure = { all: 0, right: 0 };
  for (const kind of CLOTH_KINDS) {
    if (only && only !== kind) continue;
    for (const seed of SEEDS[kind] ?? [4]) {
      const clip = await clothClip(kind, seed);
      const planes = await planesOf(clip.file);
      const { mesh, track } = await tracked(clip, planes);
      const own = mesh.vertices.map(clip.cloth);
      const found = errorsOf(clip, own, track, sure);
      const name = `soft surface, ${kind}, texture ${seed}`;
      const [rms, beyond] = GOALS[kind] ?? [0.3, 1];
      show(
        `${name}: ${mesh.vertices.length} points, RMS, most, beyond 3 px`,
        told(found),
        `<= ${rms}, ${beyond} %`,
      );
      await beside(show, name, clip, own, mesh);
      show(`${name}: shown though hidden, or not shown though seen`, `${found.wrong} ${found.missed}`, '0 0');
      if (found.back !== null) show(`${name}: back after so many frames`, String(found.back), '<= 3');
      const flat = flattened(clip, { frame: 0, mesh, track, levels: 2, size: clip });
      show(`${name}: laid flat, left over the whole of it, and most`, flat.left, '<= 0.35');
      show(`${name}: flattened and given back, off by at most`, flat.back.toFixed(4), '<= 0.01');
    }
  }
  if (sure.all > 0)
    show(
      'soft surfaces: a vertex within 0.5 px where its confidence is 0.9 or more',
      `${((100 * sure.right) / sure.all).toFixed(1)} %`,
      '>= 95 %',
    );
  if (!only || only === 'mend') await mended(show);
  if (!only || only === 'speed') await speed(show);
  if (!only || only === 'play') await softPlaying(show);
}

/** The same points followed step by step by native Lucas-Kanade. */
async function beside(
  show: Show,
  name: string,
  clip: ClothClip,
  own: readonly Point[],
  mesh: Mesh,
): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-peer-'));
  const peer = await followedByPeer(clip.file, mesh.vertices, folder);
  await rm(folder, { recursive: true });
  if (!peer) return;
  const off = peer.places.flatMap(({ point, frame, at }) => {
    const truth = clip.truth(own[point].x, own[point].y, frame);
    return truth ? [Math.hypot(at.x - truth.x, at.y - truth.y)] : [];
  });
  const rms = Math.sqrt(off.reduce((sum, d) => sum + d * d, 0) / off.length);
  const beyond = off.filter((d) => d > 3).length / off.length;
  show(`${name}: the peer's, RMS, most, beyond 3 px`, told({ rms, most: Math.max(...off), beyond }), '-');
}

const told = ({ rms, most, beyond }: { rms: number; most: number; beyond: number }) =>
  `${rms.toFixed(3)} ${most.toFixed(2)} ${(100 * beyond).toFixed(2)} %`;

async function tracked(clip: ClothClip, planes: readonly Plane[]): Promise<{ mesh: Mesh; track: SoftTrack }> {
  const spacing = (SPACING * clip.width) / 640;
  const mesh = makeMesh({ outline: clip.outline, spacing, fit: 'even' }, planes[0]);
  return { mesh, track: await followed(clip, planes, mesh, EMPTY_SOFT_TRACK, 0) };
}

async function followed(
  clip: ClothClip,
  planes: readonly Plane[],
  mesh: Mesh,
  known: SoftTrack,
  from: number,
): Promise<SoftTrack> {
  const shape = clip.outline.map((p) => [p.x, p.y] as const);
  const one: SoftToTrack = {
    ...{ id: 'cloth', name: 'cloth', frame: 0, vertices: mesh.vertices, track: known },
    shapes: [{ kind: 'focus', smooth: false, keys: [{ frame: 0, shape }] }],
    settings: { stiffness: 1, refresh: 'auto', lowMatch: 'coast', minConfidence: 0.05, eye: EYE },
  };
  let track = known;
  for await (const step of trackSoft(new InMemory(planes), { soft: [one], from, to: clip.frames - 1 }))
    track = withSoftSamples(track, step.samples.map((s) => s.sample)); // prettier-ignore
  return track;
}

function errorsOf(
  clip: ClothClip,
  own: readonly Point[],
  track: SoftTrack,
  sure: { all: number; right: number },
) {
  let [sum, n, most, far, wrong, missed] = [0, 0, 0, 0, 0, 0];
  const hiddenAt = own.map(() => -1);
  let back: number | null = null;
  for (let f = 1; f < clip.frames; f++) {
    const sample = softAt(track, f);
    own.forEach((at, i) => {
      const truth = clip.truth(at.x, at.y, f);
      const v = sample?.vertices[i] ?? null;
      if (!truth) hiddenAt[i] = f;
      if (!truth && v?.state === 'tracked') wrong++;
      if (truth && v?.state !== 'tracked') missed++;
      if (truth && v?.state === 'tracked' && hiddenAt[i] >= 0) {
        back = Math.max(back ?? 0, f - hiddenAt[i] - 1);
        hiddenAt[i] = -1;
      }
      if (!truth || v?.state !== 'tracked') return;
      const off = Math.hypot(v.x - truth.x, v.y - truth.y);
      sum += off * off;
      n++;
      most = Math.max(most, off);
      if (off > 3) far++;
      if (v.confidence >= 0.9) {
        sure.all++;
        if (off <= 0.5) sure.right++;
      }
    });
  }
  return { rms: Math.sqrt(sum / n), most, beyond: far / n, wrong, missed, back };
}

/** What is left of the motion of the whole cloth where it is laid flat, and how far giving it back goes astray. */
function flattened(clip: ClothClip, shape: SoftShape): { left: string; back: number } {
  let [sum, n, most, astray] = [0, 0, 0, 0];
  for (let f = 1; f < clip.frames; f += 3) {
    const mesh = softWarp(shape, 0, f);
    if (!mesh) continue;
    const [forth, back] = [evaluatorOf(mesh), evaluatorOf(unbent(mesh))];
    for (let v = 8; v < CLOTH_DOWN - 8; v += 7) {
      for (let u = 8; u < CLOTH_ACROSS - 8; u += 7) {
        const [rest, truth] = [clip.truth(u, v, 0)!, clip.truth(u, v, f)];
        const there = forth.at(rest.x, rest.y);
        const again = back.at(there.x, there.y);
        astray = Math.max(astray, Math.hypot(again.x - rest.x, again.y - rest.y));
        if (!truth) continue;
        const off = Math.hypot(there.x - truth.x, there.y - truth.y);
        sum += off * off;
        n++;
        most = Math.max(most, off);
      }
    }
  }
  return { left: `${Math.sqrt(sum / n).toFixed(3)} ${most.toFixed(2)}`, back: astray };
}

/** Twenty points put wrongly on frame 60, three of them pinned where they belong, and tracked on from there. */
async function mended(show: Show): Promise<void> {
  const clip = await clothClip('cloth', 4);
  const planes = await planesOf(clip.file);
  const { mesh, track } = await tracked(clip, planes);
  const own = mesh.vertices.map(clip.cloth);
  const at = softAt(track, 60)!;
  const order = own.map((_, i) => i).sort((a, b) => Math.hypot(own[a].x - 150, own[a].y - 120) - Math.hypot(own[b].x - 150, own[b].y - 120)); // prettier-ignore
  const wrong = new Set(order.slice(0, 20));
  const pins = [order[0], order[7], order[15]];
  const vertices = at.vertices.map((v, i): SoftVertex | null => {
    const truth = clip.truth(own[i].x, own[i].y, 60)!;
    if (pins.includes(i)) return { ...truth, confidence: 1, state: 'pinned' };
    return v && wrong.has(i) ? { ...v, x: v.x + 11, y: v.y - 8 } : v;
  });
  const known = withSoftSamples(track, [softSample(60, vertices)]);
  const again = await followed(clip, planes, mesh, known, 60);
  let most = 0;
  for (let f = 61; f <= 70; f++) {
    for (const i of wrong) {
      const v = softAt(again, f)!.vertices[i];
      const truth = clip.truth(own[i].x, own[i].y, f)!;
      most = Math.max(most, v ? Math.hypot(v.x - truth.x, v.y - truth.y) : Infinity);
    }
  }
  show(
    'soft surface: 20 points put wrongly, mended by 3 pins, most within 10 frames',
    most.toFixed(2),
    '<= 0.5',
  );
}

/** Frames a second of the command line on 1080p, decoding included. */
async function speed(show: Show): Promise<void> {
  const clip = await clothClip('large', 4);
  const folder = await mkdtemp(join(tmpdir(), 'lurn-soft-'));
  const marks = join(folder, 'marks.json');
  const outline = clip.outline.map((p) => [p.x, p.y]);
  await writeFile(marks, JSON.stringify({ soft: [{ name: 'cloth', outline, spacing: 99 }] }));
  const took = async (to: number) => {
    const began = performance.now();
    const args = [
      'apps/cli/dist/bundled/main.js',
      'track',
      clip.file,
      '--marks',
      marks,
      '--mesh',
      join(folder, 'm.json'),
    ];
    await run('node', [...args, '--to', String(to), '--json']);
    return performance.now() - began;
  };
  // Starting varies by as much as many frames take: the middle of several.
  const each: number[] = [];
  for (let k = 0; k < 5; k++) {
    const [short, long] = [await took(4), await took(clip.frames - 1)];
    each.push((long - short) / (clip.frames - 5));
  }
  const rate = 1000 / median(each);
  show(
    `soft surface, ${clip.width} x ${clip.height}: frames a second, with decoding`,
    rate.toFixed(1),
    '>= 8',
  );
  await rm(folder, { recursive: true });
}
