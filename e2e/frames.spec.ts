import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect, test } from '@playwright/test';
import { zipSync } from 'fflate';
import { ffmpegPath, FileFrames, turnedBy } from '@lurn/engine';
import { sharedHarness } from './harness/open.js';
import { summarise, type FrameSummary, type Harness } from './harness/page.js';
import { TestServer } from './server.js';

declare const harness: Harness;

/** Frame i is the same picture in the browser and with ffmpeg: made-up files of many kinds, every frame compared. */

const run = promisify(execFile);
const SOURCE = (size: string) => ['-f', 'lavfi', '-i', `testsrc2=size=${size}:rate=25:duration=1.6`];
const X264 = ['-c:v', 'libx264', '-pix_fmt', 'yuv420p', '-preset', 'veryfast'];

interface Kind {
  readonly name: string;
  readonly make: (file: string, folder: string) => Promise<string[]>;
  /** Played straight from the file, or from a working copy. */
  readonly direct: boolean;
  /** True where a clip is made of it first. */
  readonly conformed?: boolean;
}

const kinds: Kind[] = [
  {
    name: 'b-frames.mp4',
    direct: true,
    make: async (f) => [...SOURCE('320x180'), ...X264, '-bf', '3', '-g', '24', f],
  },
  {
    name: 'variable rate.mp4',
    direct: true,
    make: async (f) => [
      ...SOURCE('320x180'),
      '-vf',
      'select=not(mod(n\\,3))+not(mod(n\\,7))',
      '-vsync',
      'vfr',
      ...X264,
      '-bf',
      '2',
      f,
    ],
  },
  {
    name: 'edit list.mp4',
    direct: false,
    make: async (f, folder) => ['-ss', '0.61', '-i', join(folder, 'b-frames.mp4'), '-c', 'copy', f],
  },
  {
    name: 'turned.mp4',
    direct: true,
    make: async (f, folder) => {
      const source = join(folder, 'b-frames.mp4');
      const { input, output } = await turnedBy(-90);
      return [...input, '-i', source, '-c', 'copy', ...output, f];
    },
  },
  {
    name: 'late start.mkv',
    direct: true,
    make: async (f) => [...SOURCE('320x180'), '-vf', 'setpts=PTS+1.7/TB', ...X264, f],
  },
  {
    name: 'odd size.webm',
    direct: false,
    make: async (f) => [
      ...SOURCE('320x180'),
      '-vf',
      'scale=321:181',
      '-c:v',
      'libvpx-vp9',
      '-cpu-used',
      '8',
      '-deadline',
      'realtime',
      f,
    ],
  },
  {
    name: 'vp9.webm',
    direct: true,
    make: async (f) => [
      ...SOURCE('320x180'),
      '-c:v',
      'libvpx-vp9',
      '-cpu-used',
      '8',
      '-deadline',
      'realtime',
      f,
    ],
  },
  {
    name: 'vp8.webm',
    direct: true,
    make: async (f) => [
      ...SOURCE('320x180'),
      '-c:v',
      'libvpx',
      '-cpu-used',
      '8',
      '-deadline',
      'realtime',
      '-b:v',
      '1M',
      f,
    ],
  },
  {
    name: 'full range.mp4',
    direct: true,
    make: async (f) => [
      ...SOURCE('320x180'),
      '-c:v',
      'libx264',
      '-pix_fmt',
      'yuvj420p',
      '-color_range',
      'pc',
      f,
    ],
  },
  {
    name: 'hevc.mp4',
    direct: false,
    make: async (f) => [
      ...SOURCE('320x180'),
      '-c:v',
      'libx265',
      '-preset',
      'ultrafast',
      '-x265-params',
      'log-level=none',
      '-pix_fmt',
      'yuv420p',
      f,
    ],
  },
  { name: 'prores.mov', direct: false, make: async (f) => [...SOURCE('320x180'), '-c:v', 'prores_ks', f] },
  {
    name: 'motion jpeg.avi',
    direct: false,
    make: async (f) => [...SOURCE('320x180'), '-c:v', 'mjpeg', '-q:v', '3', '-pix_fmt', 'yuvj420p', f],
  },
  {
    name: 'mpeg2.ts',
    direct: false,
    make: async (f) => [...SOURCE('320x180'), '-c:v', 'mpeg2video', '-bf', '2', '-q:v', '3', f],
  },
  {
    name: 'ten bit.mkv',
    direct: false,
    make: async (f) => [...SOURCE('320x180'), '-c:v', 'libx264', '-pix_fmt', 'yuv420p10le', f],
  },
];

/** What practice brings besides: each is worked on as it is, or as what is conformed of it. */
const awkward: Kind[] = [
  {
    name: 'open groups.mp4',
    direct: true,
    make: async (f) => [
      ...SOURCE('320x180'),
      ...X264,
      '-bf',
      '3',
      '-g',
      '15',
      '-x264-params',
      'open-gop=1',
      f,
    ],
  },
  {
    name: 'wide pixels.mp4',
    direct: true,
    make: async (f) => [...SOURCE('320x180'), '-vf', 'setsar=4/3', ...X264, f],
  },
  {
    name: 'a long gap.mp4',
    direct: true,
    make: async (f) => [
      ...[...SOURCE('320x180'), '-vf', "setpts='if(gt(N,30),PTS+8/TB,PTS)'", '-vsync', 'vfr', ...X264, f],
    ],
  },
  {
    name: 'ten bits and a wide range.mp4',
    direct: false,
    make: async (f) => [
      ...[...SOURCE('320x180'), '-c:v', 'libx265', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p10le'],
      ...['-x265-params', 'log-level=none:colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc', f],
    ],
  },
  {
    name: 'fields.ts',
    direct: false,
    conformed: true,
    make: async (f) => [
      ...[...SOURCE('320x180'), '-vf', 'interlace=scan=tff', '-c:v', 'mpeg2video'],
      ...['-flags', '+ildct+ilme', '-q:v', '2', f],
    ],
  },
  {
    name: 'two sizes.ts',
    direct: false,
    conformed: true,
    make: async (f, folder) => {
      const parts = ['320x180', '480x270'].map((size) => join(folder, `${size}.ts`));
      for (const [i, part] of parts.entries())
        await run(await ffmpegPath(), [
          '-y',
          '-v',
          'error',
          ...SOURCE(i ? '480x270' : '320x180'),
          ...X264,
          part,
        ]);
      await writeFile(f, Buffer.concat(await Promise.all(parts.map((p) => readFile(p)))));
      return [];
    },
  },
  {
    name: 'broken in the middle.mp4',
    direct: false,
    make: async (f, folder) => {
      const whole = join(folder, 'whole.mp4');
      await run(await ffmpegPath(), ['-y', '-v', 'error', ...SOURCE('320x180'), ...X264, '-g', '12', whole]);
      const bytes = await readFile(whole);
      const from = bytes.indexOf('mdat') + 4000 + bytes.length / 3;
      for (let i = 0; i < 600; i++) bytes[Math.floor(from) + i] ^= (i * 37) & 255;
      await writeFile(f, bytes);
      return [];
    },
  },
  {
    name: 'stills.zip',
    direct: false,
    conformed: true,
    make: async (f, folder) => {
      const at = join(folder, 'still%04d.png');
      await run(await ffmpegPath(), ['-y', '-v', 'error', ...SOURCE('320x180'), '-frames:v', '20', at]);
      const names = Array.from({ length: 20 }, (_, i) => `still${String(i + 1).padStart(4, '0')}.png`);
      const files = await Promise.all(
        names.map(async (n) => [n, new Uint8Array(await readFile(join(folder, n)))]),
      );
      await writeFile(f, zipSync(Object.fromEntries(files) as Record<string, Uint8Array>, { level: 0 }));
      return [];
    },
  },
];

let server: TestServer;
let folder: string;

test.beforeAll(async () => {
  server = await TestServer.start();
  folder = await mkdtemp(join(tmpdir(), 'lurn-frames-'));
});
test.afterAll(async () => {
  await server.stop();
  await rm(folder, { recursive: true, force: true });
});
const page = sharedHarness(() => server.url);

function apart(a: FrameSummary, b: FrameSummary): number {
  return Math.max(...a.blocks.map((v, i) => Math.abs(v - b.blocks[i])));
}

for (const kind of [...kinds, ...awkward]) {
  test(`every frame of ${kind.name} is the same in the browser and with ffmpeg`, async () => {
    const path = join(folder, kind.name);
    const made = await kind.make(path, folder);
    if (made.length > 0) await run(await ffmpegPath(), ['-y', '-v', 'error', ...made]);
    const { body } = await server.upload(kind.name, await readFile(path));
    await server.ready();
    const clip = (await server.clips()).find((c) => c.id === body.id)!;
    expect(clip.error).toBeNull();
    const info = clip.info!;
    expect(clip.usesCopy).toBe(!kind.direct);
    const { times } = (await (await fetch(`${server.url}/api/clips/${clip.id}/times`)).json()) as {
      times: number[];
    };
    expect(times).toHaveLength(info.frames);
    expect(times[0]).toBe(0);

    const conformed = join(server.data, 'clips', clip.id, 'conformed.mkv');
    const luma = new FileFrames(kind.conformed ? conformed : path, info);
    const truth: FrameSummary[] = [];
    for (let i = 0; i < info.frames; i++) truth.push(summarise(await luma.luma(i)));
    luma.close();
    const { width, height, turns } = info;
    const file = {
      url: `${server.url}/api/clips/${clip.id}/${clip.usesCopy ? 'copy' : 'file'}`,
      ...{ times, width, height, turns, usesCopy: clip.usesCopy, part: clip.made?.copy?.part },
    };
    const forwards = times.map((_, i) => i);
    // Forwards, then backwards and in leaps: the picture must not depend on how it was reached.
    const order = [...forwards, ...[...forwards].reverse(), ...forwards.map((i) => (i * 17) % info.frames)];
    const seen = await page().evaluate(([f, o]) => harness.frames(f, o), [file, order] as const);
    const faults = order.flatMap((frame, k) => {
      const own = apart(seen[k], truth[frame]);
      const others = [frame - 1, frame + 1].filter((i) => truth[i]).map((i) => apart(seen[k], truth[i]));
      const same = kind.direct ? seen[k].hash === truth[frame].hash : own < 2;
      return same && others.every((other) => other > own) ? [] : [{ frame, readAs: k, own, others }];
    });
    expect(faults).toEqual([]);
  });
}

test('a frame that is not there is refused in words', async () => {
  const clip = (await server.clips())[0];
  const { times } = (await (await fetch(`${server.url}/api/clips/${clip.id}/times`)).json()) as {
    times: number[];
  };
  const file = {
    url: `${server.url}/api/clips/${clip.id}/file`,
    times,
    width: 320,
    height: 180,
    turns: 0 as const,
    ...{ usesCopy: clip.usesCopy, part: clip.made?.copy?.part },
  };
  const message = await page().evaluate((f) => harness.frames(f, [1e9]).catch((e: Error) => e.message), file);
  expect(message).toContain('no frame 1000000000');
});
