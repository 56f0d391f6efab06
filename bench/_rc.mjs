// bench/render-child.ts
import { appendFileSync } from "node:fs";
import { chain, composeSimilarity, invert as invert2, matrixWarp as matrixWarp2, scaling, translation } from "@lurn/core";

// bench/layers-made.ts
import {
  boxOfStrokes,
  IDENTITY,
  matrixWarp,
  paintStrokes,
  rectangle
} from "@lurn/core";

// packages/core/src/numbers.ts
function randomNumbers(seed) {
  let a = seed >>> 0;
  return () => {
    a = a + 1831565813 >>> 0;
    let t = a;
    t = Math.imul(t ^ t >>> 15, t | 1);
    t ^= t + Math.imul(t ^ t >>> 7, t | 61);
    return ((t ^ t >>> 14) >>> 0) / 4294967296;
  };
}

// packages/core/src/testing/footage.ts
var COSINES = Float64Array.from({ length: 64 }, (_, i) => {
  const [k, n] = [i >> 3, i & 7];
  return (k === 0 ? Math.SQRT1_2 : 1) * 0.5 * Math.cos((2 * n + 1) * k * Math.PI / 16);
});

// bench/layers-made.ts
function workThatRides(w2, h2) {
  const random = randomNumbers(5);
  const strokes = Array.from({ length: 200 }, () => {
    const [x, y] = [w2 * (0.1 + 0.3 * random()), h2 * (0.55 + 0.3 * random())];
    return {
      ...{ tool: "brush", colour: [200, 180, 60], size: 18, hardness: 0.6, flow: 0.8 },
      points: Array.from({ length: 8 }, (_, i) => [x + 9 * i, y + 12 * random(), 1])
    };
  });
  const box = boxOfStrokes(strokes);
  const graphic = { width: 800, height: 400, data: new Uint8Array(800 * 400 * 4).fill(200) };
  const toOwn = matrixWarp(IDENTITY);
  const common = { toOwn, opacity: 1, blend: "normal", grain: 0, mattes: [] };
  const round = Array.from({ length: 12 }, (_, i) => ({
    x: w2 * 0.7 + w2 * 0.06 * Math.cos(i / 6 * Math.PI),
    y: h2 * 0.6 + w2 * 0.06 * Math.sin(i / 6 * Math.PI)
  }));
  const matte = {
    kind: "outline",
    outline: { points: round, grow: 0, soften: 8 },
    toOwn,
    outside: false
  };
  return {
    layers: [
      {
        ...{ ...common, id: "graphic" },
        content: { kind: "raster", raster: "g", corners: rectangle(w2 * 0.4, h2 * 0.2, w2 * 0.7, h2 * 0.45) }
      },
      { ...common, id: "conceal", content: { kind: "blurred", radius: 14 }, mattes: [[matte]] },
      {
        ...{ ...common, id: "paint" },
        content: {
          ...{ kind: "raster", raster: "s" },
          corners: rectangle(box.left, box.top, box.left + box.width, box.top + box.height)
        }
      }
    ],
    rasters: new Map(
      [
        ["g", graphic],
        ["s", paintStrokes(strokes, box, 2)]
      ].map(([key, raster]) => {
        const data = new Uint8Array(new SharedArrayBuffer(raster.data.length));
        data.set(raster.data);
        return [key, { ...raster, data }];
      })
    )
  };
}

// bench/render-child.ts
import { formatById, indexClip, render } from "@lurn/engine";
var [file, out, frames, preset = "medium", crf = "18", layered, work, log] = process.argv.slice(2);
var clip = await indexClip(file);
var { width: w, height: h } = clip.info;
var zoom = chain(translation(w / 2, h / 2), scaling(1.08), translation(-w / 2, -h / 2));
var { layers, rasters } = layered ? workThatRides(w, h) : { layers: [], rasters: /* @__PURE__ */ new Map() };
var start = performance.now();
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
      rotation: 0.01 * Math.sin(frame / 9)
    };
    const picture = chain(zoom, composeSimilarity({ ...shake, logScale: 0 }, { x: w / 2, y: h / 2 }));
    const edges = { mode: "colour", colour: [0, 0, 0] };
    const base = { frame, toSource: matrixWarp2(invert2(picture)), edges, donors: [] };
    return { size: { width: w, height: h }, base, layers };
  },
  rasters: { of: () => Promise.resolve(rasters) },
  delivery: { width: w, height: h },
  format: formatById("h264-mp4"),
  crf: Number(crf),
  preset,
  ...work && { work },
  onPart: (part, state) => log && appendFileSync(log, `${part.index} ${state}
`)
});
console.log(
  JSON.stringify({
    seconds: (performance.now() - start) / 1e3,
    megabytes: process.resourceUsage().maxRSS / 1024
  })
);
