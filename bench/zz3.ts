import { FileFrames, indexClip, } from '@lurn/engine';
import { SceneTracker, apply, invert, moversOf, sceneMotion, motionMatrix, partsOf, multiply, type Plane } from '@lurn/core';
import { sceneClip, WIDTH, HEIGHT, KIND_NAMES } from './scene-clips.js';
const [,, kinds='all', seeds='3'] = process.argv;
for (const seed of seeds.split(',')) for (const kind of kinds==='all'?KIND_NAMES:kinds.split(',')) {
const clip = await sceneClip(kind, +seed);
const { info } = await indexClip(clip.file); const frames = new FileFrames(clip.file, info);
const planes: Plane[]=[]; for (let f=0; f<info.frames; f++) { const p=await frames.luma(f); planes.push({...p,data:p.data.slice()}); } frames.close();
const tracker = new SceneTracker(); const t=process.cpuUsage(); for (const p of planes) tracker.add(p); const u=process.cpuUsage(t);
const tr = tracker.finish([1,1]);
let t0=performance.now(); const scene = moversOf(tr,{width:WIDTH,height:HEIGHT}); const tm=performance.now()-t0; t0=performance.now();
const motion = sceneMotion(scene,0,0,{width:WIDTH,height:HEIGHT}); const ts=performance.now()-t0;
let s=0,n=0,worst=0;
if (motion) for (const {from,to} of partsOf(tr)) for (let f=from; f<=to; f++) { const m=invert(motionMatrix(motion,f)), T=invert(clip.layers[0].motion[f]); let e2=0;
 for (const x of [0.05,.35,.65,.95]) for (const y of [.05,.35,.65,.95]) { const a=apply(m,x*WIDTH,y*HEIGHT), b=apply(T,x*WIDTH,y*HEIGHT); const e=(a.x-b.x)**2+(a.y-b.y)**2; e2+=e; n++; } s+=e2; worst=Math.max(worst,Math.sqrt(e2/16)); }
// grouping
let right=0, all=0; const matrix=new Map<string,number>();
for (let k=0;k<tr.start.length;k++) { if(tr.first[k+1]-tr.first[k]<12) continue; const a=tr.first[k]; const li=Math.max(0,clip.layers.findIndex((l,i)=>i>0&&l.covers!(tr.x[a],tr.y[a],tr.start[k]))); const key=li+'→'+scene.moverOf[k]; matrix.set(key,(matrix.get(key)??0)+1); all++; if(li===scene.moverOf[k]) right++; }
console.log(kind.padEnd(11),seed,'left',Math.sqrt(s/n).toFixed(3),'worst',worst.toFixed(2),'track ms/f',((u.user+u.system)/1000/planes.length).toFixed(1),'group',tm.toFixed(0),'solve',ts.toFixed(0),'right',(100*right/all).toFixed(1)+'%',[...matrix].map(([k,v])=>k+':'+v).join(' '),scene.movers.map(m=>m.name+' '+(100*m.share).toFixed(0)+'% rim'+m.rim.toFixed(2)).join(', '),'cuts',[...tr.cuts].join());
}
