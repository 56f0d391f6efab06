import { execFile } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium } from '@playwright/test';
import { ffmpegPath, indexClip } from '@lurn/engine';
import { openHarness } from '../e2e/harness/open.js';
import type { Harness } from '../e2e/harness/page.js';
import { READS_DEMO, TestServer } from '../e2e/server.js';
import { readTruth, STATION, stillLeft, track, trackingErrors } from './accuracy.js';
import { median } from './median.js';
import { layers } from './layers.js';
import { motion } from './motion.js';
import { parts } from './parts.js';
import { playing } from './playing.js';
import { queue } from './queue.js';
import { saving } from './saving.js';
import { scene } from './scene.js';
import { speed } from './speed.js';
import { soft } from './soft/soft.js';
import { surface } from './surface.js';
import { tracking } from './tracking.js';

declare const harness: Harness;

/** `npm run bench`: accuracy against truth in pixels, speed as ratios within this run; `-- tracking [gondola|speed|pins]`,
 * `-- motion [still|calm|lock|speed]`, `-- playing`, `-- saving` or `-- speed [spots|reading|render|page|hour|long]`, `-- scene [left|kind|place|rows|speed]`,
 * `-- surface [kind|speed]`, `-- soft [kind|mend|speed|play]`, `-- layers [panel|render|play]`, `-- parts [killed|machines]`, `-- queue` for that alone. */

const run = promisify(execFile);
const clip = await indexClip(STATION);
const truth = readTruth(STATION);
const { duration } = clip.info;
const show = (name: string, value: string, wanted: string) =>
  console.log(`${name.padEnd(92)} ${value.padStart(12)}   wanted ${wanted}`);

const only = process.argv[2];
const alone = {
  tracking,
  motion,
  playing,
  saving,
  speed,
  scene,
  surface,
  soft,
  layers,
  parts,
  queue,
} as const;
if (only in alone) {
  await alone[only as keyof typeof alone](show, process.argv[3]);
  process.exit(0);
}

const folder = await mkdtemp(join(tmpdir(), 'lurn-bench-'));
try {
  await tracking(show);
  await motion(show);
  await playing(show);
  await saving(show);
  await speed(show);
  await scene(show);
  await surface(show);
  await soft(show);
  await layers(show);
  await parts(show);
  await queue(show);
  const errors = await trackingErrors(clip, truth);
  for (const [name, error] of Object.entries(errors))
    show(`tracking error on station, ${name}`, `${error.toFixed(3)} px`, '<= 0.15');
  const left = await stillLeft(clip, truth, join(folder, 'steady.mp4'));
  show('building as shot, RMS', `${left.before.toFixed(2)} px`, '-');
  show('building after Still with two spots, by the truth', `${left.byTruth.toFixed(3)} px`, '<= 0.25');
  show('the same, registered in the rendered file', `${left.inFile.toFixed(3)} px`, '<= 0.25');

  const two = ['gable', 'door'].map((name) => truth.features.find((f) => f.name === name)!.positions[0]);
  const onServer: number[] = [];
  for (let i = 0; i < 3; i++) {
    const start = performance.now();
    await track(STATION, clip, two);
    onServer.push((performance.now() - start) / 1000);
  }
  show('clip length / tracking two spots, ffmpeg decoding', (duration / median(onServer)).toFixed(2), '>= 1');

  const server = await TestServer.start({ env: READS_DEMO });
  const { id } = await server.clip('station');
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking'],
  });
  const page = await browser.newPage();
  await openHarness(page, server.url);
  const file = {
    url: `${server.url}/api/clips/${id}/file`,
    times: [...clip.times],
    width: 1280,
    height: 720,
    turns: 0 as const,
    usesCopy: false,
  };
  const inPage: number[] = [];
  for (let i = 0; i < 3; i++)
    inPage.push(await page.evaluate(([f, p]) => harness.trackTime(f, p), [file, two] as const));
  show('clip length / tracking two spots, in Chromium', (duration / median(inPage)).toFixed(2), '>= 1');
  const steps = await page.evaluate((f) => harness.stepTimes(f), file);
  show('step to a cached neighbour, slowest', `${Math.max(...steps).toFixed(2)} ms`, '< 16.7');
  await browser.close();
  await server.stop();

  const child = async (source: string, frames: number, ...more: string[]) => {
    const { stdout } = await run('npx', [
      'tsx',
      'bench/render-child.ts',
      source,
      join(folder, 'out.mp4'),
      String(frames),
      ...more,
    ]);
    return JSON.parse(stdout) as { seconds: number; megabytes: number };
  };
  const ratios: number[] = [];
  for (let i = 0; i < 3; i++) {
    const { seconds } = await child(STATION, 180);
    const start = performance.now();
    await run(await ffmpegPath(), [
      '-y',
      '-v',
      'error',
      '-i',
      STATION,
      '-c:v',
      'libx264',
      '-preset',
      'medium',
      '-crf',
      '18',
      '-c:a',
      'copy',
      join(folder, 'plain.mp4'),
    ]);
    ratios.push(seconds / ((performance.now() - start) / 1000));
  }
  show(
    `render / ffmpeg without a warp (${ratios.map((r) => r.toFixed(2)).join(', ')})`,
    median(ratios).toFixed(2),
    '<= 2.5',
  );

  const long = join(folder, 'long.mp4');
  await run(await ffmpegPath(), [
    '-y',
    '-v',
    'error',
    '-stream_loop',
    '8',
    '-i',
    STATION,
    '-c',
    'copy',
    '-an',
    long,
  ]);
  const few = await child(long, 150, 'ultrafast', '30');
  const many = await child(long, 1500, 'ultrafast', '30');
  show(
    `memory of the render process, 150 frames / 1500 frames`,
    `${few.megabytes.toFixed(0)} / ${many.megabytes.toFixed(0)} MB`,
    'flat',
  );
} finally {
  await rm(folder, { recursive: true, force: true });
}
