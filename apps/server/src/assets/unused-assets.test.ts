import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { newDocument, type Asset } from '@lurn/model';
import { tempData, TestApp } from '../testing/test-app.js';

/** The files of layers that nothing shows any more are removed when the server starts, after a week. */

const SHOWN = 'a'.repeat(64);
const UNUSED = 'b'.repeat(64);

it('files that no shot shows go after a week; what is shown, and what is none of ours, stays', async () => {
  const folder = await tempData();
  const files = () => readdir(join(folder.data, 'assets')).then((names) => names.sort());
  const first = await TestApp.start(folder.data);
  await first.addClip('summit');
  await mkdir(join(folder.data, 'assets'), { recursive: true });
  for (const name of [SHOWN, UNUSED, 'notes.txt']) await writeFile(join(folder.data, 'assets', name), name);
  const asset: Asset = {
    hash: SHOWN,
    name: 'crest.png',
    width: 8,
    height: 8,
    bytes: 64,
    frames: 1,
    fps: 25,
    vector: false,
  };
  const document = { ...newDocument({ width: 640, height: 360, frames: 10 }), assets: [asset] };
  const saved = await first.call('PUT', '/clips/summit/shot', { revision: 0, document, measured: {} });
  expect(saved).toMatchObject({ status: 200 });
  await first.stop();
  const second = await TestApp.start(folder.data);
  expect(await files()).toEqual([SHOWN, UNUSED, 'notes.txt']);
  await second.stop();
  const later = jest.spyOn(Date, 'now').mockReturnValue(Date.now() + 8 * 24 * 3600 * 1000);
  const third = await TestApp.start(folder.data);
  later.mockRestore();
  expect(await files()).toEqual([SHOWN, 'notes.txt']);
  await third.stop();
  await folder.remove();
});
