/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { fireEvent, render } from '@testing-library/react';
import type { Track } from '@lurn/core/track';
import { fitScale } from '../../../lib/view';
import { bench, setBench } from '../../../state/bench';
import { bindKey, DEFAULT_KEYS, unbindAllKeys } from '../../../state/keymap';
import { shotDocument, shotState } from '../../../state/shot';
import type { SpotQuality } from '../../../state/spot-quality';
import type { Tracker } from '../../../state/tracking';
import { FRAMES, INFO, lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import { benchActions } from './index';
import { belongsToField, useKeys } from './useKeys';

/** What can be done on the Bench by keys. */

const tracker = { run: jest.fn(), stop: jest.fn(), between: jest.fn(), checkBack: jest.fn() };
const quality = { suggest: jest.fn() };
const actions = benchActions(tracker as unknown as Tracker, quality as unknown as SpotQuality);
const run = (id: string) => actions.find((a) => a.id === id)!.run();

/** A pane of 640 x 360 in which the source lies alone. */
function Pane() {
  useKeys(actions);
  return (
    <div role="application">
      <input aria-label="name" />
      <input aria-label="amount" type="range" />
      <input aria-label="switch" type="checkbox" />
    </div>
  );
}

beforeEach(() => {
  jest.clearAllMocks();
  unbindAllKeys();
  openBench(shotWith([spot('a'), lying(100, 80, 0, 9)], [spot('b'), lying(300, 200, 0, 9)]));
  setBench({ layout: 'source', camera: { scale: null, x: 0, y: 0 }, bare: false });
  HTMLElement.prototype.getBoundingClientRect = () => ({
    ...new DOMRect(0, 0, 640, 360),
    width: 640,
    height: 360,
  });
});

describe('the Bench’s actions', () => {
  it('are those that have keys, each once, with words of its own', () => {
    expect(actions.map((a) => a.id).sort()).toEqual(Object.keys(DEFAULT_KEYS).sort());
    expect(new Set(actions.map((a) => a.label)).size).toBe(actions.length);
    for (const { label } of actions) expect(label).toMatch(/^[A-Z0-9].*[^.]$/);
  });

  it('step within the range, and end playing', () => {
    setBench({ playing: true, frame: 5 });
    run('next10');
    expect([bench().frame, bench().playing]).toEqual([15, false]);
    run('previous');
    expect(bench().frame).toBe(14);
    run('last');
    run('next');
    expect(bench().frame).toBe(FRAMES - 1);
    run('first');
    run('previous10');
    expect(bench().frame).toBe(0);
    setBench({ frame: 12 });
    run('ref');
    run('first');
    run('to-ref');
    expect([shotDocument().ref, bench().frame]).toEqual([12, 12]);
    run('in');
    expect(shotDocument().range.from).toBe(12);
  });

  it('go through spots, nudge, use and delete those that are selected', () => {
    run('spot-next');
    expect(bench().selected).toEqual(['a']);
    run('spot-next');
    expect(bench().selected).toEqual(['b']);
    run('use');
    expect(shotDocument().trackers.map((t) => t.used)).toEqual([true, false]);
    run('right1');
    run('up');
    const { x, y } = shotState().measured.b.values as Track['values'];
    expect(x[0]).toBeCloseTo(301, 9);
    expect(y[0]).toBeCloseTo(199.9, 9);
    run('delete');
    expect(shotDocument().trackers.map((t) => t.id)).toEqual(['a']);
    run('undo');
    expect(tracker.stop).toHaveBeenCalledTimes(1);
    expect(shotDocument().trackers).toHaveLength(2);
    run('redo');
    expect(shotDocument().trackers).toHaveLength(1);
  });

  it('set a new spot in the middle of what is seen', () => {
    setBench({ station: 'frame', camera: { scale: 2, x: 333, y: 111 } });
    run('new');
    const made = shotDocument().trackers.at(-1)!;
    expect(bench().station).toBe('mark');
    expect(shotState().measured[made.id].values).toMatchObject({
      x: Float64Array.of(333),
      y: Float64Array.of(111),
    });
  });

  it.each([
    ['track-end', 'end'],
    ['track-start', 'start'],
    ['track-next', 'next'],
    ['track-previous', 'previous'],
    ['track-both', 'both'],
    ['track-pin', 'pin'],
  ])('%s', (id, where) => {
    run(id);
    expect(tracker.run).toHaveBeenCalledWith(where);
  });

  it('take a tool into the hand, and lay it down again', () => {
    for (const [id, tool] of [
      ['hold', { id: 'hold' }],
      ['ignore-area', { id: 'area', kind: 'ignore' }],
      ['surface', { id: 'area', kind: 'surface' }],
      ['regroup', { id: 'area', kind: 'regroup' }],
      ['points', { id: 'points' }],
      ['by-colour', { id: 'by-colour' }],
      ['by-hand', { id: 'by-hand', step: 1 }],
    ] as const) {
      run(id);
      expect(bench().tool).toEqual(tool);
      run(id);
      expect(bench().tool).toEqual({ id: 'mark' });
    }
    run('hold');
    run('leave');
    expect(bench().tool).toEqual({ id: 'mark' });
  });

  it('zoom about the middle, to whole pixels, and back to all of it', () => {
    render(<Pane />);
    run('full');
    expect(bench().camera.scale).toBeCloseTo(1 / devicePixelRatio, 9);
    run('zoom-in');
    expect(bench().camera.scale).toBeCloseTo(1.25 / devicePixelRatio, 9);
    run('closer');
    expect(bench().camera).toMatchObject({ scale: 4, x: INFO.width / 2, y: INFO.height / 2 });
    run('fit');
    run('zoom-out');
    expect(bench().camera.scale).toBeCloseTo(0.8 * fitScale(INFO, { width: 640, height: 360 }), 9);
  });

  it('compare, and go back to what was there', () => {
    run('difference');
    expect(bench().layout).toBe('difference');
    run('difference');
    expect(bench().layout).toBe('both');
    run('toggle');
    run('toggle');
    expect(bench().layout).toBe('steadied');
    const seen = new Set<string>();
    for (let i = 0; i < 7; i++) {
      run('compare');
      seen.add(bench().layout);
    }
    expect(seen.size).toBe(7);
  });

  it.each([
    'bare',
    'tint',
    'dots',
    'gridCheck',
    'misfits',
    'showMap',
    'eyeView',
    'trails',
    'motionCurves',
    'follow',
    'muted',
    'keySheet',
  ] as const)('switch %s on and off', (what) => {
    const id = {
      gridCheck: 'grid',
      showMap: 'map',
      eyeView: 'eye',
      motionCurves: 'curves',
      muted: 'mute',
      keySheet: 'keys',
    };
    const before = bench()[what];
    run((id as Record<string, string>)[what] ?? what);
    expect(bench()[what]).toBe(!before);
    run((id as Record<string, string>)[what] ?? what);
    expect(bench()[what]).toBe(before);
  });
});

describe('keys', () => {
  it('do what they are bound to, until they are bound otherwise', () => {
    render(<Pane />);
    fireEvent.keyDown(document.body, { key: 'ArrowRight' });
    expect(bench().frame).toBe(1);
    bindKey('next', 'Y');
    fireEvent.keyDown(document.body, { key: 'y' });
    expect(bench().frame).toBe(2);
    expect(fireEvent.keyDown(document.body, { key: 'y' })).toBe(false);
    expect(fireEvent.keyDown(document.body, { key: 'F9' })).toBe(true);
  });

  it('are a field’s own while something is typed in it', () => {
    const { getByLabelText } = render(<Pane />);
    fireEvent.keyDown(getByLabelText('name'), { key: 't' });
    fireEvent.keyDown(getByLabelText('amount'), { key: 'ArrowRight' });
    expect([bench().frame, tracker.run.mock.calls]).toEqual([0, []]);
    fireEvent.keyDown(getByLabelText('amount'), { key: 't' });
    fireEvent.keyDown(getByLabelText('switch'), { key: 'ArrowRight' });
    expect([bench().frame, tracker.run.mock.calls]).toEqual([1, [['end']]]);
    const belongs = (of: string, key: string) => belongsToField({ target: getByLabelText(of), key });
    expect([belongs('switch', ' '), belongs('switch', 'Enter'), belongs('amount', 'Home')]).toEqual([
      true,
      false,
      true,
    ]);
    expect(belongsToField({ target: document.body, key: 'a' })).toBe(false);
  });
});
