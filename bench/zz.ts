import { KIND_NAMES, sceneClip } from './scene-clips.js';
for (const seed of [3, 12]) for (const k of KIND_NAMES) { const t=Date.now(); const c=await sceneClip(k,seed); console.log(k,c.file,Date.now()-t); }
