import { readFileSync } from 'node:fs';
import { deserialize } from 'node:v8';
import { partedAtFades, analyse, motionMatrix, apply, invert, multiply, type Matrix3 } from '@lurn/core';
import { sceneClip } from './scene-clips.js';
const all = deserialize(readFileSync('/tmp/fadetracks.bin'));
const truthOf = async (n: string) => { const m = n.match(/(.*?)(\d+)$/)!; return (await sceneClip(m[1], +m[2])).layers[0].motion; };
const size = { width: 960, height: 540, pixelAspect: 1 };
const leftOf = (ms: Matrix3[], ts: Matrix3[]) => { let s=0,n=0; ms.forEach((m,i)=>{ const [a,b]=[invert(multiply(m, invert(ms[0]))), invert(multiply(ts[i], invert(ts[0])))]; for (const u of [.05,.28,.5,.72,.95]) for (const v of [.05,.28,.5,.72,.95]) { const p=apply(a,u*960,v*540),q=apply(b,u*960,v*540); s+=(p.x-q.x)**2+(p.y-q.y)**2;n++; } }); return Math.sqrt(s/n).toFixed(3); };
for (const { name, truth, tracks } of all) {
  const { fades } = partedAtFades(tracks, size);
  let left = '';
  if (truth) {
    const scene = analyse(tracks, size);
    const mo = scene.motions[0]!;
    const [an, bn] = name.split(' ')[0] === name.split(' ')[0] ? name.replace(/ \d+$/, '').split('>') : [];
    const [ta, tb] = [await truthOf(an), await truthOf(bn)];
    const at = scene.tracks.cuts[0] ?? 1e9;
    const N = tracks.frames;
    const ms = Array.from({length:N},(_,f)=>motionMatrix(mo, f) as Matrix3);
    const parts: [number, number, Matrix3[]][] = [];
    if (at < N) {
      const A = ms.slice(0, at), B = ms.slice(at);
      left = `A ${leftOf(A, A.map((_,i)=>ta[i]))} B ${leftOf(B, B.map((_,i)=>tb[at-60+i]))} movers ${scene.movers.length}`;
      const clean = [ms.slice(0,60), ms.slice(truth.to)];
      left += ` | clean A ${leftOf(clean[0], ta.slice(0,60) as any)} B ${leftOf(clean[1], tb.slice(truth.to-60) as any)}`;
    }
  }
  console.log(name.padEnd(30), truth ? `${truth.from}-${truth.to}` : 'none', [...tracks.cuts].join(), '|', fades.map(f=>`${f.from}-${f.to}@${f.at}`).join(' ')||'-', left);
}
