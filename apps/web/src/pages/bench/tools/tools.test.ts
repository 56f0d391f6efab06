import { sampleAt, type Track } from '@lurn/core/track';
import { softOf, spotById, spotsOf, trackOf, type Spot } from '@lurn/model';
import { toast } from 'sonner';
import { cornersOn, deleteArea, drawArea, removeAreaKey, rideOn } from '../../../state/areas';
import { removeCorner } from '../../../state/outlines';
import { bench, setBench } from '../../../state/bench';
import { tellColours } from '../../../state/picking';
import { shotDocument, shotState, undo, useShot } from '../../../state/shot';
import { lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import { madeScene } from '../../../testing/made-scene';
import { Hand, hintOf, type Press, type Target } from '.';

jest.mock('sonner', () => ({
  toast: { info: jest.fn(), error: jest.fn(), success: jest.fn(), warning: jest.fn() },
}));

/** What is done with the pointer, tool by tool; a picture pixel is a CSS pixel here. */

let hand: Hand;
const open = (...spots: readonly (readonly [Spot, Track])[]) => {
  openBench(shotWith(...spots));
  hand = new Hand();
};
afterEach(() => hand.close());

const at = (x: number, y: number) => ({ picture: { x, y }, screen: { x, y } });
const pane = { kind: 'source', x: 0, y: 0, width: 640, height: 360, from: 0, to: 1 } as const;
const down = (x: number, y: number, target: Target = { kind: 'empty' }, more: Partial<Press> = {}) =>
  hand.tool.down({ at: at(x, y), target, pane, pans: false, alt: false, ...more });
const drag = (x: number, y: number) => hand.tool.move(at(x, y));
const place = (id: string, frame = bench().frame) => sampleAt(trackOf(shotState(), id), frame);
const steps = () => useShot.temporal.getState().pastStates.length;

describe('marking', () => {
  it('places a spot with a press, exactly with a drag, in one step of undo', () => {
    open();
    expect(hintOf(bench().tool)).toMatch(/Press on a corner/);
    down(100, 80);
    drag(103, 81);
    drag(104, 82);
    hand.tool.up();
    const [made] = spotsOf(shotDocument());
    expect(place(made.id)).toMatchObject({ x: 104, y: 82, state: 'pinned' });
    expect(bench()).toMatchObject({ selected: [made.id], magnifier: null });
    expect(steps()).toBe(1);
    undo();
    expect(spotsOf(shotDocument())).toEqual([]);
  });

  it('takes a spot where it was taken hold of, so that it does not jump to the pointer', () => {
    open([spot('a'), lying(100, 80)]);
    down(104, 79, { kind: 'spot', id: 'a' });
    drag(114, 79);
    hand.tool.up();
    expect(place('a')).toMatchObject({ x: 110, y: 80 });
  });

  it.each(['cancelled', 'given up with Escape', 'interrupted by another tool'])(
    'leaves all as it was when it is %s',
    (how) => {
      open([spot('a'), lying(100, 80)]);
      setBench({ selected: ['a'] });
      const before = shotState();
      down(300, 200);
      drag(320, 210);
      expect(spotsOf(shotDocument())).toHaveLength(2);
      if (how === 'cancelled') hand.tool.cancel();
      else if (how.startsWith('given')) expect(hand.tool.key('Escape')).toBe(true);
      else setBench({ tool: { id: 'rectangle' } });
      expect(shotState().document).toEqual(before.document);
      expect(bench()).toMatchObject({ selected: ['a'], magnifier: null });
      expect(steps()).toBe(0);
      hand.tool.up(); // the release that comes after
      expect(shotState().document).toEqual(before.document);
    },
  );

  it('changes patch and reach from the spot’s own place, within what is allowed', () => {
    open([spot('a'), lying(100, 80)]);
    down(109, 89, { kind: 'patch', id: 'a' });
    drag(114, 86);
    hand.tool.up();
    expect(spotById(shotDocument(), 'a')!.patch).toEqual([14, 6]);
    down(0, 0, { kind: 'reach', id: 'a' });
    drag(134, 100);
    drag(100, 80);
    hand.tool.up();
    const { reach } = spotById(shotDocument(), 'a')!;
    expect(Math.min(...reach)).toBeGreaterThanOrEqual(1);
    expect(steps()).toBe(2);
  });

  it('pans where it is asked to, on the steadied picture, and where nothing may be marked', () => {
    open([spot('a'), lying(100, 80)]);
    setBench({ camera: { scale: 4, x: 320, y: 180 } });
    for (const press of [
      () => down(100, 80, { kind: 'empty' }, { pans: true }),
      () => down(100, 80, { kind: 'empty' }, { pane: { ...pane, kind: 'steadied' } }),
      () => {
        setBench({ station: 'frame' });
        down(100, 80);
      },
    ]) {
      const before = bench().camera;
      press();
      drag(120, 70);
      expect(bench().camera).not.toEqual(before);
      hand.tool.cancel();
      expect(bench().camera).toEqual(before);
    }
    expect(spotsOf(shotDocument())).toHaveLength(1);
  });

  it('only selects while spots are being tracked', () => {
    open([spot('a'), lying(100, 80)]);
    setBench({ tracking: { from: 0, to: 9, frame: 3, done: 3, total: 9, startedAt: 0 } });
    down(100, 80, { kind: 'spot', id: 'a' });
    drag(150, 80);
    hand.tool.up();
    expect(bench().selected).toEqual(['a']);
    expect(place('a')).toMatchObject({ x: 100 });
  });
});

describe('by hand', () => {
  const take = () => setBench({ tool: { id: 'by-hand', step: 1 } });

  it('pins the chosen spot and steps on, frame after frame', () => {
    open([spot('a'), lying(100, 80)]);
    setBench({ selected: ['a'] });
    take();
    for (const x of [101, 103, 106]) {
      down(x, 80);
      hand.tool.up();
    }
    expect([0, 1, 2].map((f) => place('a', f)?.x)).toEqual([101, 103, 106]);
    expect(bench().frame).toBe(3);
    expect(steps()).toBe(3);
  });

  it('makes a spot where there is none yet', () => {
    open();
    take();
    down(60, 50);
    hand.tool.up();
    down(62, 51);
    hand.tool.up();
    const spots = spotsOf(shotDocument());
    expect(spots).toHaveLength(1);
    expect([0, 1].map((f) => place(spots[0].id, f)?.x)).toEqual([60, 62]);
  });

  it('puts the sample back, and does not step on, when the press is cancelled', () => {
    open([spot('a'), lying(100, 80)]);
    setBench({ selected: ['a'] });
    take();
    down(150, 80);
    hand.tool.cancel();
    expect(place('a')).toMatchObject({ x: 100 });
    expect(bench()).toMatchObject({ frame: 0, selected: ['a'] });
  });
});

describe('a rectangle', () => {
  it('is drawn within the picture and laid down with the release; one that is too small is none', () => {
    open();
    setBench({ tool: { id: 'rectangle' } });
    down(600, 300);
    drag(900, 100);
    expect(bench().rectangle).toEqual([600, 100, 640, 300]);
    hand.tool.up();
    expect(bench()).toMatchObject({ tool: { id: 'mark' }, rectangle: [600, 100, 640, 300] });
    setBench({ tool: { id: 'rectangle' } });
    down(100, 100);
    drag(103, 103);
    hand.tool.up();
    expect(bench()).toMatchObject({ tool: { id: 'rectangle' }, rectangle: null });
  });

  it('that is given up leaves the one before', () => {
    open();
    setBench({ tool: { id: 'rectangle' }, rectangle: [1, 2, 50, 60] });
    down(100, 100);
    drag(200, 200);
    hand.tool.cancel();
    expect(bench().rectangle).toEqual([1, 2, 50, 60]);
  });
});

describe('carrying on', () => {
  it('shows the place while the pointer is down, and goes on from it with the release', () => {
    open([spot('a'), lying(100, 80, 0, 9)]);
    setBench({ selected: ['a'], frame: 5, tool: { id: 'carry-on', spot: 'a' } });
    down(140, 90);
    expect(bench().magnifier).toMatchObject({ x: 140, y: 90, spot: 'a' });
    hand.tool.cancel();
    expect(spotById(shotDocument(), 'a')!.joins).toEqual([]);
    down(140, 90);
    drag(141, 90);
    hand.tool.up();
    expect(bench().magnifier).toBeNull();
    expect(spotById(shotDocument(), 'a')!.joins).toMatchObject([{ frame: 5, dx: 41, dy: 10 }]);
  });
});

describe('pointing at what is held', () => {
  it('holds what is pressed on, and is laid down then; a drag pans', () => {
    open();
    setBench({ scene: madeScene(), tool: { id: 'hold' } });
    expect(hintOf(bench().tool)).toMatch(/what should be held/);
    down(320, 200);
    drag(360, 220);
    hand.tool.up();
    expect(bench().tool.id).toBe('hold');
    expect(shotDocument().held).toBeNull();
    down(320, 200);
    hand.tool.up();
    expect(shotDocument().held).toBe('scene-2');
    expect(bench().tool.id).toBe('mark');
    undo();
    expect(shotDocument().held).toBeNull();
    setBench({ scene: null });
  });
});

describe('drawing areas', () => {
  const press = (x: number, y: number, more: Partial<Press> = {}) => {
    down(x, y, { kind: 'empty' }, more);
    hand.tool.up();
  };
  const corners = () => shotDocument().areas[0].keys.map((key) => key.shape.map(([x, y]) => [x, y]));

  it('goes corner by corner, and is closed by Enter, its first corner or a double press', () => {
    for (const close of [
      () => hand.tool.key('Enter'),
      () => press(101, 51),
      () => press(150, 120, { pans: true }),
    ]) {
      open();
      setBench({ tool: { id: 'area', kind: 'ignore' } });
      expect(hintOf(bench().tool)).toMatch(/should not be measured/);
      expect(hand.tool.key('Enter')).toBe(false);
      press(100, 50);
      press(200, 50);
      press(990, 990);
      hand.tool.key('Backspace');
      press(150, 120);
      expect(bench().drawing).toHaveLength(3);
      close();
      expect(shotDocument().areas).toMatchObject([
        { kind: 'ignore', name: 'Ignored', smooth: false, rides: null },
      ]);
      expect(corners()).toEqual([
        [
          [100, 50],
          [200, 50],
          [150, 120],
        ],
      ]);
      expect(bench()).toMatchObject({ tool: { id: 'mark' }, drawing: [], area: shotDocument().areas[0].id });
      undo();
      expect(shotDocument().areas).toEqual([]);
    }
  });

  it('makes a smooth curve of a loop that is drawn, of few corners', () => {
    open();
    setBench({ tool: { id: 'area', kind: 'focus' } });
    down(300, 180);
    for (let i = 1; i <= 80; i++) drag(200 + 100 * Math.cos(i / 12.73), 180 + 60 * Math.sin(i / 12.73));
    hand.tool.up();
    const [area] = shotDocument().areas;
    expect(area).toMatchObject({ kind: 'focus', name: 'Focus', smooth: true });
    expect(area.keys[0].shape.length).toBeGreaterThan(5);
    expect(area.keys[0].shape.length).toBeLessThan(25);
  });

  it('is given up by Escape, corner by corner first', () => {
    open();
    setBench({ tool: { id: 'area', kind: 'ignore' } });
    press(100, 50);
    expect(hand.tool.key('Escape')).toBe(true);
    expect(bench().drawing).toEqual([]);
    expect(hand.tool.key('Escape')).toBe(false);
  });

  it('is moved as a whole or by a corner, which makes a key on the frame, one step of undo each', () => {
    open();
    drawArea(
      'ignore',
      [
        { x: 10, y: 10 },
        { x: 50, y: 10 },
        { x: 50, y: 40 },
      ],
      false,
    );
    const { id } = shotDocument().areas[0];
    setBench({ frame: 20, shown: 20 });
    down(30, 10, { kind: 'outline', outline: { of: 'area', id }, part: 'line', index: 0 });
    drag(35, 12);
    drag(36, 14);
    hand.tool.up();
    expect(corners()).toEqual([
      [
        [10, 10],
        [50, 10],
        [50, 40],
      ],
      [
        [16, 14],
        [56, 14],
        [56, 44],
      ],
    ]);
    expect(cornersOn(shotDocument().areas[0], 10)[0]).toEqual({ x: 13, y: 12 });
    down(56, 44, { kind: 'outline', outline: { of: 'area', id }, part: 'corner', index: 2 });
    drag(60, 50);
    hand.tool.up();
    expect(corners()[1]).toEqual([
      [16, 14],
      [56, 14],
      [60, 50],
    ]);
    // One more corner goes into every key.
    down(36, 14, { kind: 'outline', outline: { of: 'area', id }, part: 'edge', index: 0 });
    drag(36, 10);
    hand.tool.up();
    expect(corners()).toEqual([
      [
        [10, 10],
        [30, 10],
        [50, 10],
        [50, 40],
      ],
      [
        [16, 14],
        [36, 10],
        [56, 14],
        [60, 50],
      ],
    ]);
    removeCorner({ of: 'area', id }, 1);
    expect(corners()[1]).toHaveLength(3);
    removeCorner({ of: 'area', id }, 1);
    expect(corners()[1]).toHaveLength(3);
    removeAreaKey(id, 20);
    removeAreaKey(id, 0);
    expect(corners()).toHaveLength(1);
    [1, 2, 3, 4, 5].forEach(undo);
    expect(corners()).toEqual([
      [
        [10, 10],
        [50, 10],
        [50, 40],
      ],
    ]);
  });

  it('rides on what moves: it lies where it lay, and goes along', () => {
    open();
    setBench({ scene: madeScene() });
    drawArea(
      'ignore',
      [
        { x: 300, y: 180 },
        { x: 340, y: 180 },
        { x: 340, y: 220 },
      ],
      false,
    );
    const { id } = shotDocument().areas[0];
    rideOn(id, 'scene-2');
    expect(cornersOn(shotDocument().areas[0], 0)[0].x).toBeCloseTo(300, 1);
    const sway = 4 * Math.sin(5) + 15 * Math.sin(10 / 7);
    expect(Math.abs(cornersOn(shotDocument().areas[0], 10)[0].x - 300 - sway)).toBeLessThan(1);
    rideOn(id, null);
    expect(cornersOn(shotDocument().areas[0], 10)[0].x).toBeCloseTo(300, 1);
    expect(deleteArea()).toBe(true);
    expect(deleteArea()).toBe(false);
    setBench({ scene: null });
  });
});

describe('a mesh of one colour', () => {
  const asked: number[] = [];
  const square = (half: number) => [
    { x: 200 - half, y: 180 - half },
    { x: 200 + half, y: 180 - half },
    { x: 200 + half, y: 180 + half },
    { x: 200 - half, y: 180 + half },
  ];
  /** The farther colours may be, the larger it is. */
  const regionAt = (_: unknown, reach: number) => {
    asked.push(reach);
    return Promise.resolve(reach > 0.9 ? null : { outline: square(50 + 200 * reach), holes: [square(20)] });
  };
  const settled = () => new Promise((done) => setTimeout(done));
  let end: () => void;
  beforeEach(() => {
    asked.length = 0;
    end = tellColours({ colourAt: () => Promise.resolve(null), regionAt });
    open();
    setBench({ tool: { id: 'by-colour' } });
  });
  afterEach(() => end());

  it('is shown while more is taken in, and made when the pointer is let go: one step of undo, its hole kept', async () => {
    down(200, 180);
    await settled();
    const first = bench().drawing;
    for (let x = 201; x <= 250; x++) drag(x, 180);
    await settled();
    expect(bench().drawing[1].x).toBeGreaterThan(first[1].x);
    // One question at a time, the last one among them.
    expect([asked.length, asked.at(-1)]).toEqual([2, 0.22]);
    hand.tool.up();
    await settled();
    const [made] = softOf(shotDocument());
    expect(made.shapes.map((s) => s.kind)).toEqual(['focus', 'ignore']);
    expect(made.shapes[0].keys[0].shape[1]).toEqual([294, 86]);
    expect([bench().drawing, bench().tool, bench().selected]).toEqual([[], { id: 'mark' }, [made.id]]);
    expect(steps()).toBe(1);
    undo();
    expect(softOf(shotDocument())).toEqual([]);
  });

  it('is none where the playhead has moved on before it was found', async () => {
    down(200, 180);
    hand.tool.up();
    setBench({ frame: 9 });
    await settled();
    expect([bench().drawing, softOf(shotDocument())]).toEqual([[], []]);
  });

  it('is given up with Escape, and says so where nothing has that colour', async () => {
    down(200, 180);
    drag(260, 180);
    expect(hand.tool.key('Escape')).toBe(true);
    await settled();
    expect([bench().drawing, softOf(shotDocument())]).toEqual([[], []]);
    down(200, 180);
    drag(690, 180);
    hand.tool.up();
    await settled();
    expect(softOf(shotDocument())).toEqual([]);
    expect(toast.info).toHaveBeenCalledWith(expect.stringContaining('Nothing hangs together'), {
      id: 'pick',
    });
    expect(bench().tool).toEqual({ id: 'by-colour' });
  });
});
