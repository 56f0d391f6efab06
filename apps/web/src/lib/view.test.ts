import { apply, invert } from '@lurn/core/geometry';
import { layOut, panBy, pictureToPane, zoomAbout } from './view';

const picture = { width: 1280, height: 720, pixelAspect: 1 };
const pane = { width: 500, height: 400 };

describe('the twin view', () => {
  it('fits the picture, centred', () => {
    const m = pictureToPane({ scale: null, x: 0, y: 0 }, picture, pane);
    const [a, b] = [apply(m, 0, 0), apply(m, 1280, 720)];
    expect(a.x).toBeCloseTo(500 - b.x);
    expect(a.y).toBeCloseTo(400 - b.y);
    expect(b.x).toBeLessThanOrEqual(500);
  });

  it('zooms about the pointer: what is under it stays', () => {
    let camera = { scale: null as number | null, x: 0, y: 0 };
    const under = () => apply(invert(pictureToPane(camera, picture, pane)), 120, 310);
    const before = under();
    for (const factor of [1.3, 2, 0.7, 5]) camera = zoomAbout(camera, picture, pane, 120, 310, factor);
    expect(under().x).toBeCloseTo(before.x, 6);
    expect(under().y).toBeCloseTo(before.y, 6);
  });

  it('pans by what the pointer moved, anamorphic or not', () => {
    const wide = { ...picture, pixelAspect: 4 / 3 };
    const camera = { scale: 2, x: 600, y: 300 };
    const place = apply(pictureToPane(camera, wide, pane), 610, 310);
    const moved = apply(pictureToPane(panBy(camera, wide, pane, 15, -8), wide, pane), 610, 310);
    expect(moved.x - place.x).toBeCloseTo(15);
    expect(moved.y - place.y).toBeCloseTo(-8);
  });

  it('cuts one picture in two for a wipe', () => {
    const [left, right] = layOut('wipe', 800, 400, 0.3);
    expect([left.kind, left.from, left.to]).toEqual(['source', 0, 0.3]);
    expect([right.kind, right.from, right.to]).toEqual(['steadied', 0.3, 1]);
    expect([left.x, right.x, left.width, right.width]).toEqual([0, 0, 800, 800]);
  });
});
