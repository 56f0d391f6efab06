import { isInside } from './area.js';
import { twiceArea } from './mesh.js';
import { regionAbout, type Likeness } from './region.js';

const size = { width: 160, height: 120 };

/** A picture of samples that belong where asked, with speckles of either kind. */
function picture(belongs: (x: number, y: number) => boolean, speckles = 0): Likeness {
  const data = new Float32Array(size.width * size.height);
  let seed = 7;
  const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
  for (let p = 0; p < data.length; p++) {
    const is = belongs((p % size.width) + 0.5, Math.floor(p / size.width) + 0.5);
    data[p] = is !== random() < speckles ? 1 : 0;
  }
  return { ...size, data };
}

const disc = (cx: number, cy: number, r: number) => (x: number, y: number) => Math.hypot(x - cx, y - cy) < r;
const area = (ring: readonly { x: number; y: number }[]) => Math.abs(twiceArea(ring)) / 2;

test('a disc is outlined on its rim, and speckles change that by less than a sample', () => {
  for (const speckles of [0, 0.04]) {
    const { outline, holes } = regionAbout(picture(disc(80, 60, 40), speckles), { x: 70, y: 50 })!;
    expect(holes).toEqual([]);
    expect(Math.abs(area(outline) - Math.PI * 1600) / (2 * Math.PI * 40)).toBeLessThan(0.5);
    for (const { x, y } of outline) expect(Math.abs(Math.hypot(x - 80, y - 60) - 40)).toBeLessThan(2.5);
  }
});

test('what does not hang together with the place is another thing', () => {
  const [one, other] = [disc(40, 60, 25), disc(115, 60, 30)];
  const both = picture((x, y) => one(x, y) || other(x, y));
  const { outline } = regionAbout(both, { x: 40, y: 60 })!;
  expect(Math.abs(area(outline) - Math.PI * 625)).toBeLessThan(60);
  expect(isInside(outline, { x: 115, y: 60 })).toBe(false);
});

test('a hole stays open, a pinprick does not', () => {
  const [whole, hole, prick] = [disc(80, 60, 45), disc(90, 60, 15), disc(55, 60, 3)];
  const { holes } = regionAbout(
    picture((x, y) => whole(x, y) && !hole(x, y) && !prick(x, y)),
    { x: 80, y: 30 },
  )!;
  expect(holes).toHaveLength(1);
  expect(Math.abs(area(holes[0]) - Math.PI * 225)).toBeLessThan(30);
});

test('a thread that hangs on it is left out, a slit is filled', () => {
  const whole = disc(80, 60, 40);
  const thread = (x: number, y: number) => Math.abs(y - 60) < 1 && x > 20 && x < 80;
  const slit = (x: number, y: number) => Math.abs(x - 90) < 1 && y > 60;
  const { outline, holes } = regionAbout(
    picture((x, y) => (whole(x, y) && !slit(x, y)) || thread(x, y)),
    { x: 70, y: 40 },
  )!;
  expect(holes).toEqual([]);
  for (const { x, y } of outline) expect(Math.abs(Math.hypot(x - 80, y - 60) - 40)).toBeLessThan(2.5);
});

test('what reaches the rim of the picture ends there', () => {
  const { outline } = regionAbout(picture(disc(0, 0, 60)), { x: 10, y: 10 })!;
  expect(Math.abs(area(outline) - (Math.PI * 3600) / 4)).toBeLessThan(60);
  for (const { x, y } of outline) expect(Math.min(x, y)).toBeGreaterThanOrEqual(0);
});

test('where nothing belongs, and outside, there is none', () => {
  const likeness = picture(disc(80, 60, 20));
  for (const at of [
    { x: 5, y: 5 },
    { x: -1, y: 60 },
    { x: 80, y: 120 },
  ])
    // prettier-ignore
    expect(regionAbout(likeness, at)).toBeNull();
});
