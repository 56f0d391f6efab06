import { mkdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { filmScene, truthOf } from './film.js';
import { flagScene } from './flag.js';
import { gondolaScene } from './gondola.js';
import { platformScene } from './platform.js';
import { ridgeScene } from './ridge.js';
import { writeSound } from './sound.js';
import { signScene } from './sign.js';
import { stationScene } from './station.js';

/** Makes the demo shots and their truth anew: `npm run demo:make [name]`. The same every time. */
const folder = fileURLToPath(new URL('shots/', import.meta.url));
const only = process.argv[2];
await mkdir(folder, { recursive: true });

for (const [name, make, seconds, gongs] of [
  ['station', stationScene, 6, [0.8, 1.4, 4.2, 4.8]],
  ['gondola', gondolaScene, 5, [2.9]],
  ['ridge', ridgeScene, 8, [1.2, 6.4]],
  ['platform', platformScene, 8, [0.6, 5.1]],
  ['sign', signScene, 6, [1.1, 4.4]],
  ['flag', flagScene, 6, [0.9, 5.0]],
] as const) {
  if (only && only !== name) continue;
  const sound = join(tmpdir(), `lurn-${name}-${process.pid}.wav`);
  await writeSound(sound, seconds, gongs, name.length);
  const scene = make(sound);
  await filmScene(scene, join(folder, `${name}.mp4`));
  await writeFile(join(folder, `${name}.truth.json`), `${JSON.stringify(truthOf(scene))}\n`);
  await rm(sound);
  console.log(`${name}: done`);
}
