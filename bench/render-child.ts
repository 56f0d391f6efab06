import { chain, composeSimilarity, scaling, translation } from '@lurn/core';
import { indexClip, render } from '@lurn/engine';
import { NEW_EDGES } from '@lurn/model';

/** Renders the first frames of a clip in a process of its own; prints seconds and the most memory it held. */
const [file, out, frames, preset = 'medium', crf = '18'] = process.argv.slice(2);
const clip = await indexClip(file);
const { width: w, height: h } = clip.info;
const zoom = chain(translation(w / 2, h / 2), scaling(1.08), translation(-w / 2, -h / 2));
const start = performance.now();
await render({
  source: file,
  info: clip.info,
  times: clip.times,
  file: out,
  from: 0,
  to: Math.min(clip.info.frames, Number(frames)) - 1,
  picture: (f) =>
    chain(
      zoom,
      composeSimilarity(
        { x: 12 * Math.sin(f / 5), y: 9 * Math.cos(f / 7), rotation: 0.01 * Math.sin(f / 9), logScale: 0 },
        { x: w / 2, y: h / 2 },
      ),
    ),
  delivery: { width: w, height: h },
  edges: NEW_EDGES,
  donors: () => [],
  crf: Number(crf),
  preset,
});
console.log(
  JSON.stringify({
    seconds: (performance.now() - start) / 1000,
    megabytes: process.resourceUsage().maxRSS / 1024,
  }),
);
