/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { apply } from '@lurn/core/geometry';
import { planFor } from '@lurn/core/plan';
import {
  addLayer,
  changeDocument,
  NEW_LAYER,
  NEW_TINT,
  ON_FRAME,
  shotRequest,
  type Layer,
} from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { edit, shotState } from '../../../state/shot';
import { INFO, lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import { magnifierPanes } from './magnifier-panes';
import { viewOf } from './view-of';

/** What the picture’s worker is asked to draw. */

const SIZE = { width: 804, height: 300 };
/** Where the middle of a pane lies in its scene. */
const middleOf = ({ toScene, width, height }: ReturnType<typeof viewOf>['panes'][number]) => {
  const { x, y } = apply(toScene, width / 2, height / 2);
  return [x, y].map((v) => Math.round(v * 1e6) / 1e6);
};
const tint: Layer = {
  ...NEW_LAYER,
  ...NEW_TINT,
  id: 't',
  name: 'Tint',
  frame: 0,
  rides: ON_FRAME,
  outline: null,
};

beforeEach(() => {
  openBench(shotWith([spot('a', { patch: [10, 6], reach: [20, 12] }), lying(100, 80, 0, 9)]));
  setBench({
    layout: 'source',
    camera: { scale: null, x: 0, y: 0 },
    bare: false,
    eyeView: false,
    tried: null,
    wipe: 0.25,
  });
});

describe('what is drawn', () => {
  it('is the frame that the playhead is on, fitted into its pane', () => {
    setBench({ frame: 7 });
    const { frame, panes, eye } = viewOf(SIZE, false);
    expect([frame, panes.length, eye]).toEqual([7, 1, null]);
    expect(panes[0]).toMatchObject({ x: 0, y: 0, width: 804, height: 300, quality: 'cubic', over: null });
    expect(panes[0].scene).toMatchObject({ base: { frame: 7 }, layers: [] });
    expect(middleOf(panes[0])).toEqual([INFO.width / 2, INFO.height / 2]);
  });

  it('is cut where a wipe cuts it, and the two lie on one another', () => {
    setBench({ layout: 'wipe' });
    const [left, right] = viewOf(SIZE, false).panes;
    expect([left.width, right.x, right.width]).toEqual([201, 201, 603]);
    const at = (pane: typeof left, x: number) => apply(pane.toScene, x - pane.x, 0);
    expect(at(left, 300).x).toBeCloseTo(at(right, 300).x, 9);
  });

  it('is the delivered picture where there is a plan, and the reference frame over it to compare', () => {
    setBench({ layout: 'steadied', frame: 5 });
    expect(viewOf(SIZE, false).panes[0].scene.base.frame).toBe(5);
    setBench({ steady: planFor(shotRequest(shotState(), INFO)) });
    setBench({ layout: 'steadied' });
    const [pane] = viewOf(SIZE, false).panes;
    // The spot lies still: nothing is moved.
    expect(pane).toMatchObject({ quality: 'cubic', over: null, scene: { base: { frame: 5 } } });
    expect(middleOf(pane)).toEqual([INFO.width / 2, INFO.height / 2]);
    expect(viewOf(SIZE, false).panes[0].scene).toBe(pane.scene);
    setBench({ layout: 'onion' });
    expect(viewOf(SIZE, false).panes[0].over).toMatchObject({ frame: 0, laying: 'half' });
    setBench({ layout: 'difference' });
    expect(viewOf(SIZE, false).panes[0].over).toMatchObject({ laying: 'half negative' });
    edit((s) => changeDocument(s, { edges: { mode: 'mirrored', colour: '#000000' } }));
    expect(viewOf(SIZE, false).panes[0].scene.base.edges.mode).toBe('mirrored');
  });

  it('is shown by its own pixels close by, and quickly while something is dragged', () => {
    setBench({ camera: { scale: 8, x: 200, y: 100 } });
    const { panes } = viewOf(SIZE, false);
    expect([panes[0].quality, middleOf(panes[0])]).toEqual(['nearest', [200, 100]]);
    expect(viewOf(SIZE, true)).toMatchObject({ draft: true, panes: [{ quality: 'linear' }] });
  });

  it('is seen as the tracker sees it, where that is asked for and a spot is selected', () => {
    setBench({ eyeView: true });
    expect(viewOf(SIZE, false).eye).toBeNull();
    setBench({ selected: ['a'] });
    expect(viewOf(SIZE, false).eye).toMatchObject({ channel: 'luma' });
  });

  it('has the layers given back, but not where they would lie over marks, nor where they are hidden', () => {
    edit((s) => addLayer(s, tint));
    const layers = () => viewOf(SIZE, false).panes[0].scene.layers.length;
    expect(layers()).toBe(0);
    setBench({ station: 'layers' });
    expect(layers()).toBe(1);
    setBench({ bare: true });
    expect(layers()).toBe(0);
  });
});

describe('the magnifier', () => {
  it('keeps to the side that the pointer is not on, with the place in its middle', () => {
    for (const [x, side] of [
      [100, 804 - 208 - 8],
      [500, 8],
    ]) {
      const [patch, reach] = magnifierPanes({ spot: 'a', x, y: 80 }, SIZE.width, SIZE.height);
      expect([patch.name, reach.name, patch.x, reach.x]).toEqual(['patch', 'reach', side, side]);
      for (const inset of [patch, reach]) {
        const at = apply(inset.toPane, x, 80);
        expect(at.x).toBeCloseTo(inset.width / 2, 6);
        expect(at.y).toBeCloseTo(inset.height / 2, 6);
      }
      // All of the patch is in the one, all of the reach in the other.
      expect(apply(patch.toPane, x - 10, 80).x).toBeGreaterThan(0);
      expect(apply(reach.toPane, x - 30, 80 - 18).x).toBeGreaterThan(0);
      expect(apply(reach.toPane, x - 30, 80 - 18).y).toBeGreaterThan(0);
    }
  });

  it('is drawn by its own pixels, after the panes; there is none where the source is not seen', () => {
    setBench({ magnifier: { spot: 'a', x: 100, y: 80 } });
    const { panes } = viewOf(SIZE, false);
    expect(panes.map((p) => p.quality)).toEqual(['cubic', 'nearest', 'nearest']);
    const [x, y] = middleOf(panes[1]);
    expect([x, y]).toEqual([100, 80]);
    setBench({ layout: 'steadied' });
    expect(magnifierPanes(bench().magnifier!, SIZE.width, SIZE.height)).toEqual([]);
    expect(magnifierPanes({ spot: 'nobody', x: 0, y: 0 }, SIZE.width, SIZE.height)).toEqual([]);
  });
});
