import { speedClip } from './speed-clips.js';
const c = await speedClip(1920, 1080, 150); console.log(JSON.stringify(c));
