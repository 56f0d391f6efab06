import { FileFrames } from '../index.js';
import { ClipFolder, difference, indexed, renderPlain } from '../testing/clips.js';
import { layoutOf } from '../layout.js';
import { comparedSize, comparePlan, putTogether, type Compare } from './compare.js';

let clips: ClipFolder;
beforeAll(async () => {
  clips = await ClipFolder.open();
  await clips.plain();
}, 60_000);
afterAll(() => clips.remove());

/** Planes of a picture that is one value everywhere. */
const flat = (w: number, h: number, value: number) =>
  new Uint8Array(w * h + 2 * (w / 2) * (h / 2)).fill(value);
const put = (compare: Compare, turns: number, time = 0) => {
  const plan = comparePlan(compare, turns);
  const [w, h] = comparedSize([8, 4], plan);
  const out = new Uint8Array(w * h * 1.5);
  putTogether([flat(8, 4, 1), flat(8, 4, 2)], [8, 4], layoutOf('420', 8), out, plan, time);
  return { out, w, h, at: (x: number, y: number) => out[y * w + x] };
};

/** Where a coded place of a w x h picture is shown, after quarter turns clockwise. */
function shown(x: number, y: number, w: number, h: number, turns: number): [number, number] {
  return turns === 0 ? [x, y] : shown(h - 1 - y, x, h, w, turns - 1);
}

describe('before and after in one picture', () => {
  it.each([0, 1, 2, 3])('lie beside and above each other as shown, coded turned by %d quarters', (turns) => {
    for (const compare of ['beside', 'above'] as const) {
      const { w, h, at, out } = put(compare, turns);
      for (let y = 0; y < h; y++)
        for (let x = 0; x < w; x++) {
          const [sx, sy] = shown(x, y, w, h, turns);
          const [sw, sh] = turns % 2 ? [h, w] : [w, h];
          const first = compare === 'beside' ? sx < sw / 2 : sy < sh / 2;
          expect(at(x, y)).toBe(first ? 1 : 2);
        }
      // The chroma planes are parted in the same place.
      expect(out.subarray(w * h).filter((v) => v === 1)).toHaveLength(16);
    }
  });

  it('a wipe begins with all of the one before, goes across and comes back', () => {
    expect(put('wipe', 0, 0).out.every((v) => v === 1)).toBe(true);
    expect(put('wipe', 0, 2).out.every((v) => v === 2)).toBe(true);
    const { at, w, h } = put('wipe', 0, 1);
    expect([w, h]).toEqual([8, 4]);
    expect([at(0, 0), at(2, 3), at(3, 1), at(4, 1), at(5, 0), at(7, 3)]).toEqual([1, 1, 200, 200, 2, 2]);
  });

  it.each([
    ['beside', 640, 180],
    ['above', 320, 360],
  ] as const)('%s: a file of both, either half as it is alone', async (compare, width, height) => {
    const source = clips.at('plain.mp4');
    const clip = await indexed(source);
    const moved = { picture: () => [1, 0, 16, 0, 1, 0, 0, 0, 1] as const, format: 'ffv1-mkv', to: 5 };
    await renderPlain(source, clip, clips.at(`${compare}.mkv`), {
      ...moved,
      compare: { way: compare, labels: false },
    });
    await renderPlain(source, clip, clips.at('alone.mkv'), moved);
    const both = await indexed(clips.at(`${compare}.mkv`));
    expect(both.info).toMatchObject({ width, height, frames: 6 });
    // What comes first is the picture as it was shot.
    expect(await difference(source, clip, clips.at(`${compare}.mkv`))).toBe(0);
    const [all, alone] = [
      new FileFrames(clips.at(`${compare}.mkv`), both.info),
      new FileFrames(clips.at('alone.mkv'), (await indexed(clips.at('alone.mkv'))).info),
    ];
    const [a, b] = [await all.luma(3), await alone.luma(3)];
    const [dx, dy] = compare === 'beside' ? [320, 0] : [0, 180];
    let most = 0;
    for (let y = 0; y < 180; y++)
      for (let x = 0; x < 320; x++)
        most = Math.max(most, Math.abs(a.data[(y + dy) * a.stride + x + dx] - b.data[y * b.stride + x]));
    expect(most).toBe(0);
    all.close();
    alone.close();
  });
});
