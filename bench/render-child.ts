import { appendFileSync } from 'node:fs';
import { chain, composeSimilarity, invert, matrixWarp, scaling, translation } from '@lurn/core/geometry';
import { workThatRides } from './layers-made.js';
import { formatById, indexClip, render } from '@lurn/engine';

/**
 * Renders the first frames of a clip in a process of its own, with three layers if asked; prints seconds and the most
 * memory it held.
 */
const [file, out, frames, preset = 'medium', crf = '18', layered, work, log] = process.argv.slice(2);
const clip = await indexClip(file);
const { width: w, height: h } = clip.info;
const zoom = chain(translation(w / 2, h / 2), scaling(1.08), translation(-w / 2, -h / 2));
const { layers, rasters } = layered ? workThatRides(w, h) : { layers: [], rasters: new Map() };
const start = performance.now();
await render({
  source: file,
  info: clip.info,
  times: clip.times,
  file: out,
  from: 0,
  to: Math.min(clip.info.frames, Number(frames)) - 1,
  scene: (frame) => {
    const shake = {
      x: 12 * Math.sin(frame / 5),
      y: 9 * Math.cos(frame / 7),
      rotation: 0.01 * Math.sin(frame / 9),
    };
    const picture = chain(zoom, composeSimilarity({ ...shake, logScale: 0 }, { x: w / 2, y: h / 2 }));
    const edges = { mode: 'colour', colour: [0, 0, 0] } as const;
    const base = { frame, toSource: matrixWarp(invert(picture)), edges, donors: [] };
    return { size: { width: w, height: h }, base, layers };
  },
  rasters: { of: () => Promise.resolve(rasters) },
  delivery: { width: w, height: h },
  format: formatById('h264-mp4'),
  crf: Number(crf),
  preset,
  ...(work && { work }),
  onPart: (part, state) => log && appendFileSync(log, `${part.index} ${state}\n`),
});
console.log(
  JSON.stringify({
    seconds: (performance.now() - start) / 1000,
    megabytes: process.resourceUsage().maxRSS / 1024,
  }),
);
