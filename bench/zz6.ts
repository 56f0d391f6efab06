import { FileFrames, indexClip } from '@lurn/engine'; import { SceneTracker, halvedPlane } from '@lurn/core'; import { speedClip } from './speed-clips.js'; import { Session } from 'node:inspector/promises'; import { writeFileSync } from 'node:fs';
const clip=await speedClip(1920,1080,120); const { info } = await indexClip(clip.file); const fr=new FileFrames(clip.file,info); const planes:any[]=[]; for(let i=0;i<info.frames;i++){ const p=await fr.luma(i); planes.push(halvedPlane({...p,data:p.data.slice()},1)); } fr.close();
{ const t=new SceneTracker(); for(const p of planes) t.add(p); }
const s=new Session(); s.connect(); await s.post('Profiler.enable'); await s.post('Profiler.setSamplingInterval',{interval:200}); await s.post('Profiler.start');
let a=performance.now(); const t=new SceneTracker(); for(const p of planes) t.add(p); console.log('ms/frame',((performance.now()-a)/planes.length).toFixed(1), 'live',(t as any).live.length);
const {profile}=await s.post('Profiler.stop') as any; writeFileSync('/tmp/trial/an.cpuprofile',JSON.stringify(profile));
