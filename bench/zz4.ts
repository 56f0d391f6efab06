import { FileFrames, indexClip } from '@lurn/engine';
import { SceneTracker, moversOf, cornersOf, measureNoise } from '@lurn/core';
const f = process.argv[2];
const { info } = await indexClip(f);
const fr = new FileFrames(f, info);
const t = new SceneTracker();
let p: any;
for (let i = 0; i < info.frames; i++) {
  p = await fr.luma(i);
  p = { ...p, data: p.data.slice() };
  if (i === 0) console.log('corners', cornersOf(p, 1).length, 'noise', measureNoise(p));
  t.add(p);
}
fr.close();
const tr = t.finish([1, 1]);
console.log(
  'tracks',
  tr.start.length,
  [...tr.start].slice(0, 20),
  'lens',
  [...tr.start].map((_, k) => tr.first[k + 1] - tr.first[k]).slice(0, 30),
  'cuts',
  [...tr.cuts],
);
const m = moversOf(tr, info);
console.log(m.movers);
