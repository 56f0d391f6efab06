import { SceneTracker, createPlane, type Plane, analyse } from '@lurn/core';
import { planesOf } from './planes.js';
import { sceneClip } from './scene-clips.js';
import { writeFileSync } from 'node:fs';
import { serialize } from 'node:v8';
const kinds: [string, number][] = [['handheld',3],['handheld',12],['pan',3],['two depths',12],['zoom',3],['swaying',12],['heavy',3], ['crossing', 12]];
const films: Record<string, Plane[]> = {};
for (const [k,s] of kinds) films[k+s] = await planesOf((await sceneClip(k,s)).file);
const out: any[] = [];
const pairs: [string,string][] = [['handheld3','handheld12'],['pan3','two depths12'],['zoom3','swaying12'],['heavy3','crossing12']];
function run(name: string, frames: number, at: (f:number)=>Plane, truth: any) {
  const t = new SceneTracker();
  for (let f=0; f<frames; f++) t.add(at(f));
  out.push({ name, truth, tracks: t.finish([1,1]) });
}
for (const [a,b] of pairs) for (const L of [12, 20, 30, 45, 60, 90]) {
  const mixed = createPlane(960,540);
  // A for frames 0.., fade begins at 60, B all along from frame 60: B index f-60
  run(`${a}>${b} ${L}`, Math.min(210, 60+150), (f) => {
    const w = Math.max(0, Math.min(1, (f-60)/L));
    if (w===0) return films[a][f];
    if (w===1) return films[b][f-60];
    const [p,q] = [films[a][Math.min(149,f)], films[b][f-60]];
    for (let i=0;i<p.data.length;i++) mixed.data[i] = p.data[i]*(1-w)+q.data[i]*w;
    return mixed;
  }, { from: 60, to: 60+L });
  console.log(a,b,L);
}
for (const k of Object.keys(films)) run(k, 150, (f)=>films[k][f], null);
writeFileSync('/tmp/fadetracks.bin', serialize(out));
