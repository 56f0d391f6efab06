import { readFileSync } from 'node:fs';
import { deserialize } from 'node:v8';
import { analyse, motionMatrix, apply, invert, multiply, type Matrix3 } from '@lurn/core';
import { sceneClip } from './scene-clips.js';
const all = deserialize(readFileSync('/tmp/fadetracks.bin'));
const size = { width: 960, height: 540, pixelAspect: 1 };
for (const { name, truth, tracks } of all) {
  if (!truth || !/45|60|90/.test(name.split(' ').pop()!)) continue;
  const scene = analyse(tracks, size);
  const mo = scene.motions[0]!;
  const bn = name.replace(/ \d+$/, '').split('>')[1].match(/(.*?)(\d+)$/)!;
  const tb = (await sceneClip(bn[1], +bn[2])).layers[0].motion;
  const at = scene.tracks.cuts[0]; if (!at) { console.log(name, 'none'); continue; }
  const last = tracks.frames - 1;
  const out: string[] = [];
  for (let f = at; f < Math.min(last, at + 30); f++) {
    const m = multiply(motionMatrix(mo, f) as Matrix3, invert(motionMatrix(mo, last) as Matrix3));
    const t = multiply(tb[f-60], invert(tb[last-60]));
    let s = 0; for (const [x,y] of [[100,100],[860,100],[480,270],[100,440],[860,440]]) { const p=apply(m,x,y), q=apply(t,x,y); s+=(p.x-q.x)**2+(p.y-q.y)**2; }
    let n = 0; for (let k=0;k<scene.moverOf.length;k++) { const i = scene.tracks.first[k]+f-scene.tracks.start[k]; if (i>=scene.tracks.first[k]&&i<scene.tracks.first[k+1]&&scene.tracks.confidence[i]>0&&scene.moverOf[k]===0) n++; }
    out.push(`${Math.sqrt(s/5).toFixed(2)}(${n})`);
  }
  console.log(name, 'at', at, 'part', out.join(' '));
}
