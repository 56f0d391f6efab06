import { FileFrames, indexClip, } from '@lurn/engine';
import { SceneTracker, apply, invert } from '@lurn/core';
import { sceneClip, WIDTH, HEIGHT } from './scene-clips.js';
const [,, kinds='handheld', seed='3'] = process.argv;
for (const kind of kinds.split(',')) {
const clip = await sceneClip(kind, +seed);
const { info } = await indexClip(clip.file); const frames = new FileFrames(clip.file, info);
const planes=[]; for (let f=0; f<info.frames; f++) { const p=await frames.luma(f); planes.push({...p,data:p.data.slice()}); } frames.close();
for (let round=0; round<2; round++) {
const tracker = new SceneTracker(); const t=process.cpuUsage(); for (const p of planes) tracker.add(p); const u=process.cpuUsage(t);
const tr = tracker.finish([1,1]);
if(round) { 
const errs:number[][]=[[],[]]; let n=0, wrong=0; const lens:number[]=[];
for (let k=0;k<tr.start.length;k++) { const a=tr.first[k], s=tr.start[k]; const li = clip.layers.findIndex((l,i)=>i>0 && l.covers!(tr.x[a],tr.y[a],s)); const layer=clip.layers[Math.max(0,li)];
 lens.push(tr.first[k+1]-a);
 for (let i=a+1;i<tr.first[k+1];i++) if(tr.confidence[i]>0){ const f=s+i-a; const p=apply(invert(layer.motion[s]),tr.x[a],tr.y[a]); const q=apply(layer.motion[f],p.x,p.y); const e=Math.hypot(q.x-tr.x[i],q.y-tr.y[i]); n++; if(e>1) wrong++; else errs[li>0?1:0].push(e*e); } }
const rms=(v:number[])=>Math.sqrt(v.reduce((a,b)=>a+b,0)/v.length);
lens.sort((a,b)=>a-b);
console.log(kind, 'ms/frame',((u.user+u.system)/1000/planes.length).toFixed(1),'tracks',tr.start.length,'per frame',(n/planes.length).toFixed(0),'median life',lens[lens.length>>1],'rms',rms(errs[0]).toFixed(3),rms(errs[1]).toFixed(3),'wrong',(wrong/n).toFixed(4),'cuts',[...tr.cuts]);
} } }
