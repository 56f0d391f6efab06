import { readFile, writeFile } from 'node:fs/promises';
import { at, clearUp, lurn, moved, setOut } from './testing/try-out.js';

beforeAll(setOut);
afterAll(clearUp);

describe('lurn track', () => {
  it('writes every sample, forwards and backwards from each spot’s own frame', async () => {
    const { status, out } = await lurn(
      'track',
      at('clip.mp4'),
      '--spots',
      at('spots.json'),
      '--out',
      at('tracks.csv'),
      '--json',
    );
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      frames: 12,
      spots: [
        { name: 'left', samples: 12 },
        { name: 'right', samples: 12 },
      ],
      stopped: [],
    });
    const rows = (await readFile(at('tracks.csv'), 'utf8'))
      .trim()
      .split('\n')
      .slice(1)
      .map((r) => r.split(','));
    for (const [name, frame0, x0, y0] of [
      ['left', 0, 120, 90],
      ['right', 5, 190, 88],
    ] as const) {
      for (const [, frame, time, x, y] of rows.filter((r) => r[0] === name)) {
        const f = Number(frame);
        expect(Number(time)).toBeCloseTo(f / 25, 5);
        expect(Math.abs(Number(x) - (x0 + 4 * (frame0 % 3) - 4 * (f % 3)))).toBeLessThan(0.1);
        expect(Math.abs(Number(y) - (y0 + 2 * (frame0 % 2) - 2 * (f % 2)))).toBeLessThan(0.1);
      }
    }
  });
});

describe('lurn track with options', () => {
  it('keeps pins where they are, follows the picture between them, and matches on another channel', async () => {
    const at7 = { x: 120 + 4 * (0 % 3) - 4 * (7 % 3), y: 90 - 2 * (7 % 2) };
    const spot = { name: 'left', frame: 0, x: 120, y: 90, patch: [12, 12], reach: [14, 12] };
    const options = { channel: 'green', detail: 0.5, allow: 'shift', refresh: 'never', lowMatch: 'stop' };
    const spots = [{ ...spot, ...options, minConfidence: 0.1, pins: [{ frame: 7, ...at7 }] }];
    await writeFile(at('pinned.json'), JSON.stringify({ spots }));
    const { status, out, err } = await lurn('track', at('clip.mp4'), '--spots', at('pinned.json'));
    expect([status, err]).toEqual([0, '']);
    const rows = out
      .trim()
      .split('\n')
      .slice(1)
      .map((r) => r.split(','));
    expect(rows).toHaveLength(12);
    expect(rows.filter((r) => r[6] === 'pinned').map((r) => r[1])).toEqual(['0', '7']);
    for (const [, frame, , x, y] of rows) {
      const f = Number(frame);
      expect(Math.abs(Number(x) - (120 - 4 * (f % 3)))).toBeLessThan(0.15);
      expect(Math.abs(Number(y) - (90 - 2 * (f % 2)))).toBeLessThan(0.15);
    }
  });

  it('refuses what an option cannot be, by its name', async () => {
    const spots = [{ name: 'left', frame: 0, x: 120, y: 90, lowMatch: 'panic' }];
    await writeFile(at('odd.json'), JSON.stringify({ spots }));
    const { status, err } = await lurn('track', at('clip.mp4'), '--spots', at('odd.json'));
    expect([status, err]).toEqual([
      1,
      expect.stringContaining('spots[0].lowMatch must be one of coast, stop, carryOn, not "panic"'),
    ]);
  });
});

describe('ignore areas', () => {
  const box = (left: number, right: number) => [
    [left, -10],
    [right, -10],
    [right, 190],
    [left, 190],
  ];
  const marks = (ignore: object[]) => ({
    spots: [{ name: 'left', frame: 0, x: 120, y: 90, patch: [12, 12], reach: [14, 12] }],
    ignore,
  });

  it('are never measured: a spot that one covers for a while is coasted, and found again', async () => {
    const away = box(-90, -50);
    const keys = [
      { frame: 4, shape: away },
      { frame: 5, shape: box(60, 180) },
      { frame: 7, shape: box(60, 180) },
      { frame: 8, shape: away },
    ];
    await writeFile(at('ignore.json'), JSON.stringify(marks([{ name: 'hand', keys }])));
    const { status, out } = await lurn('track', at('clip.mp4'), '--marks', at('ignore.json'));
    expect(status).toBe(0);
    const rows = out
      .trim()
      .split('\n')
      .slice(1)
      .map((line) => line.split(','));
    expect(rows.map((r) => r[6])).toEqual([
      'pinned',
      ...Array<string>(4).fill('tracked'),
      ...Array<string>(3).fill('coasted'),
      ...Array<string>(4).fill('tracked'),
    ]);
    for (const [, frame, , x, y, , state] of rows) {
      if (state === 'coasted') continue;
      const [dx, dy] = moved(Number(frame));
      expect(Math.hypot(Number(x) - 120 - dx, Number(y) - 90 - dy)).toBeLessThan(0.1);
    }
  });

  it.each([
    [[{ name: 'hand', keys: [] }], 'ignore[0].keys is empty'],
    [
      [{ name: 'hand', keys: [{ frame: 40, shape: box(0, 9) }] }],
      'ignore[0].keys[0].frame must be a number from 0 to 11',
    ],
    [
      [
        {
          name: 'hand',
          keys: [
            {
              frame: 0,
              shape: [
                [0, 0],
                [1, 1],
              ],
            },
          ],
        },
      ],
      'ignore[0].keys[0].shape must be 3 to 500 corners',
    ],
    [
      [
        {
          name: 'hand',
          keys: [
            { frame: 0, shape: box(0, 9) },
            { frame: 3, shape: box(0, 9).slice(1) },
          ],
        },
      ],
      'ignore[0].keys[1].shape has 3 corners where the first key has 4',
    ],
    [
      [
        {
          name: 'hand',
          keys: [
            { frame: 3, shape: box(0, 9) },
            { frame: 3, shape: box(0, 9) },
          ],
        },
      ],
      'ignore[0].keys[1].frame is not after the key before it',
    ],
    [[{ name: 'hand', keys: [{ frame: 0, shape: box(0, 9) }], soft: true }], 'ignore[0].soft is not known'],
  ])('that cannot be are refused: %j', async (ignore, why) => {
    await writeFile(at('bad.json'), JSON.stringify(marks(ignore)));
    const { status, err } = await lurn('track', at('clip.mp4'), '--marks', at('bad.json'));
    expect([status, err]).toEqual([1, expect.stringContaining(why)]);
  });
});

describe('flat surfaces', () => {
  const shape = [
    [60, 40],
    [250, 44],
    [240, 140],
    [66, 136],
  ];
  const marks = { surfaces: [{ name: 'board', frame: 2, shape }] };

  it('are tracked both ways, and their corners written', async () => {
    await writeFile(at('board.json'), JSON.stringify(marks));
    const args = ['--marks', at('board.json'), '--corners', at('corners.csv'), '--json'];
    const { status, out } = await lurn('track', at('clip.mp4'), ...args);
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({
      spots: [],
      surfaces: [{ name: 'board', samples: 12 }],
      stopped: [],
    });
    const rows = (await readFile(at('corners.csv'), 'utf8')).trim().split('\n').slice(1);
    expect(rows).toHaveLength(12);
    for (const row of rows) {
      const [, frame, , ...numbers] = row.split(',');
      const [dx, dy] = moved(Number(frame)).map((v, k) => v - moved(2)[k]);
      shape.forEach(([x, y], k) => {
        expect(Math.abs(Number(numbers[2 * k]) - x - dx)).toBeLessThan(0.15);
        expect(Math.abs(Number(numbers[2 * k + 1]) - y - dy)).toBeLessThan(0.15);
      });
    }
    // Without a file they are what is printed.
    const printed = await lurn('track', at('clip.mp4'), '--marks', at('board.json'), '--to', '4');
    expect(printed.out.split('\n')[0]).toMatch(/^surface,frame,time_s,x1_px/);
  });

  it('are held by name, with their perspective or without', async () => {
    await writeFile(at('board.json'), JSON.stringify(marks));
    const steady = (...more: string[]) =>
      lurn('steady', at('clip.mp4'), '--marks', at('board.json'), '--goal', 'still', '--json', ...more);
    const { status, out } = await steady('--hold', 'board', '--motion', at('board-motion.json'));
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ held: 'board', edge_frames: 11 });
    const motion = JSON.parse(await readFile(at('board-motion.json'), 'utf8')) as {
      held: string;
      frames: { motion: number[] }[];
    };
    expect(motion.held).toBe('board');
    const m = motion.frames[1].motion;
    const w = m[6] * 150 + m[7] * 90 + m[8];
    expect((m[0] * 150 + m[1] * 90 + m[2]) / w).toBeCloseTo(146, 0);
    const only = await steady('--use', 'x,y', '--motion', at('shift.json'));
    expect(only.status).toBe(0);
    const unknown = await steady('--hold', 'door');
    expect([unknown.status, unknown.err]).toEqual([1, expect.stringContaining('no surface "door"')]);
    expect((await steady('--use', 'x,tilt')).err).toMatch(
      /x, y, rotation, scale and perspective, not "tilt"/,
    );
  });

  it('of which nothing is left to measure are told of', async () => {
    const shape9 = [
      [0, 0],
      [320, 0],
      [320, 180],
      [0, 180],
    ];
    const ignore = [{ name: 'all', keys: [{ frame: 0, shape: shape9 }] }];
    await writeFile(at('none.json'), JSON.stringify({ ...marks, ignore }));
    const { status, err } = await lurn('track', at('clip.mp4'), '--marks', at('none.json'), '--json');
    expect(status).toBe(0);
    expect(err).toMatch(/"board": All of it is ignored on this frame/);
  });
});

describe('soft surfaces', () => {
  const outline = [
    [60, 40],
    [250, 44],
    [240, 140],
    [66, 136],
  ];
  const soft = (more: object = {}) => ({ soft: [{ name: 'flag', frame: 2, outline, spacing: 30, ...more }] });
  interface Meshes {
    meshes: { vertices: number[][]; frames: { frame: number; vertices: (number[] | null)[] }[] }[];
  }

  it('are tracked both ways by a mesh, and that is written', async () => {
    await writeFile(at('flag.json'), JSON.stringify(soft()));
    const args = ['--marks', at('flag.json'), '--mesh', at('mesh.json'), '--json'];
    const { status, out } = await lurn('track', at('clip.mp4'), ...args);
    expect(status).toBe(0);
    const { meshes } = JSON.parse(await readFile(at('mesh.json'), 'utf8')) as Meshes;
    const [mesh] = meshes;
    expect(JSON.parse(out)).toMatchObject({
      soft: [{ name: 'flag', samples: 12, vertices: mesh.vertices.length }],
    });
    expect(mesh.frames.map((f) => f.frame)).toEqual([...Array(12).keys()]);
    for (const { frame, vertices } of mesh.frames) {
      const [dx, dy] = moved(frame).map((v, k) => v - moved(2)[k]);
      vertices.forEach((v, i) => {
        const [x, y] = mesh.vertices[i];
        if (v) expect(Math.hypot(v[0] - x - dx, v[1] - y - dy)).toBeLessThan(1);
      });
    }
    const printed = await lurn('track', at('clip.mp4'), '--marks', at('flag.json'), '--to', '4');
    expect(JSON.parse(printed.out)).toMatchObject({ meshes: [{ name: 'flag' }] });
  });

  it('are held by name, laid flat or as a whole', async () => {
    await writeFile(at('flag.json'), JSON.stringify(soft()));
    const steady = (...more: string[]) =>
      lurn('steady', at('clip.mp4'), '--marks', at('flag.json'), '--goal', 'still', '--json', ...more);
    const flat = await steady('--hold', 'flag', '--out', at('flat.mp4'));
    expect([flat.status, JSON.parse(flat.out)]).toMatchObject([0, { held: 'flag' }]);
    const whole = await steady('--use', 'x,y,rotation,scale', '--motion', at('flag-motion.json'));
    expect((JSON.parse(whole.out) as { shake_after_px: number }).shake_after_px).toBeLessThan(0.3);
  });

  it('keep their pins, and say which point there is not', async () => {
    const pin = { frame: 6, vertex: 5, x: 140, y: 77 };
    await writeFile(at('pins.json'), JSON.stringify(soft({ pins: [pin] })));
    await lurn('track', at('clip.mp4'), '--marks', at('pins.json'), '--mesh', at('pins-mesh.json'));
    const { meshes } = JSON.parse(await readFile(at('pins-mesh.json'), 'utf8')) as Meshes;
    expect(meshes[0].frames[6].vertices[5]).toEqual([140, 77]);
    await writeFile(at('pins.json'), JSON.stringify(soft({ pins: [{ ...pin, vertex: 700 }] })));
    const { status, err } = await lurn('track', at('clip.mp4'), '--marks', at('pins.json'));
    expect([status, err]).toEqual([1, expect.stringMatching(/"flag" has \d+ vertices, and a pin names 700/)]);
  });
});
