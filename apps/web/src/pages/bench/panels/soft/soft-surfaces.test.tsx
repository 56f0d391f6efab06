/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen, within } from '@testing-library/react';
import { softSample, withSoftSamples, type SoftVertex } from '@lurn/core/track';
import { setMeasured, softOf, softTrackOf } from '@lurn/model';
import { drawArea } from '../../../../state/areas';
import { bench, setBench } from '../../../../state/bench';
import { edit, shotDocument, shotState, undo } from '../../../../state/shot';
import { drawSoft } from '../../../../state/soft/soft';
import { openBench } from '../../../../testing/open-bench';
import { Areas } from '../Areas';
import { MendMesh } from './MendMesh';
import { SoftSurfaces } from './SoftSurfaces';

jest.mock('sonner', () => ({
  toast: { info: jest.fn(), error: jest.fn(), success: jest.fn(), warning: jest.fn() },
}));

/** Meshes in the panels: made, chosen, changed, mended. */

const square = [
  { x: 100, y: 80 },
  { x: 300, y: 80 },
  { x: 300, y: 200 },
  { x: 100, y: 200 },
];
const only = () => softOf(shotDocument())[0];
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
/** Seen on a frame as it lies on its own, but for some points. */
const seenOn = (frame: number, ended: readonly number[] = []) => {
  const { id, vertices } = only();
  const there = vertices.map(([x, y], i): SoftVertex | null =>
    ended.includes(i) ? null : { x, y, confidence: 0.9, state: i === 0 ? 'coasted' : 'tracked' },
  );
  edit((s) => setMeasured(s, { [id]: withSoftSamples(softTrackOf(s, id), [softSample(frame, there)]) }));
};

beforeEach(() => {
  openBench();
  setBench({ frame: 3, area: null, points: [], meshBrush: 0, dots: false });
});

describe('soft surfaces', () => {
  it('are drawn, or taken by their colour, from here; the same button lays the tool down', () => {
    render(<SoftSurfaces />);
    for (const [name, tool] of [
      ['Draw round …', { id: 'area', kind: 'soft' }],
      ['By its colour …', { id: 'by-colour' }],
    ] as const) {
      press(name);
      expect(bench().tool).toEqual(tool);
      expect(screen.getByRole('button', { name }).getAttribute('aria-pressed')).toBe('true');
      press(name);
      expect(bench().tool).toEqual({ id: 'mark' });
    }
  });

  it('are listed with what is known of them, and chosen', () => {
    drawSoft(square, false);
    render(<SoftSurfaces />);
    const list = screen.getByRole('list', { name: 'Soft surfaces' });
    const entry = within(list).getByRole('button');
    expect(entry.textContent).toContain(`${only().vertices.length} points, frame 3`);
    fireEvent.click(entry);
    expect(bench().selected).toEqual([]);
    fireEvent.click(entry);
    expect(bench().selected).toEqual([only().id]);
    act(() => seenOn(4, [1, 2]));
    expect(entry.textContent).toContain('2 frames');
    act(() => setBench({ frame: 4 }));
    expect(screen.getByText(/here 2 ended, 1 coasted/)).toBeTruthy();
  });

  it('are made anew by another spacing, laid flat or not, each a step of undo', () => {
    drawSoft(square, false);
    render(<SoftSurfaces />);
    const before = only().vertices.length;
    const apart = screen.getByLabelText('Apart, px');
    fireEvent.change(apart, { target: { value: '60' } });
    fireEvent.keyDown(apart, { key: 'Enter' });
    fireEvent.blur(apart);
    expect(only()).toMatchObject({ spacing: 60 });
    expect(only().vertices.length).toBeLessThan(before);
    act(undo);
    expect(only().vertices).toHaveLength(before);
    fireEvent.click(screen.getByLabelText('Lay it flat where it is held'));
    expect(only().flatten).toBe(false);
    expect(screen.queryByLabelText('Flat')).toBeNull();
  });

  it('are edited on their own frame alone', () => {
    drawSoft(square, false);
    render(<SoftSurfaces />);
    press('Cut a hole …');
    expect(bench().tool).toEqual({ id: 'area', kind: 'hole' });
    press('Edit points …');
    expect(bench().tool).toEqual({ id: 'points' });
    act(() => setBench({ points: [0, 5] }));
    const count = only().vertices.length;
    press('Take out 2 chosen points');
    expect(only().vertices).toHaveLength(count - 2);
    act(() => setBench({ frame: 9, tool: { id: 'mark' } }));
    for (const name of ['Edit points …', 'Cut a hole …'])
      expect(screen.getByRole<HTMLButtonElement>('button', { name }).disabled).toBe(true);
  });

  it('are made of an area, as it lies on the frame that is shown', () => {
    drawArea('focus', square, false);
    render(<Areas />);
    press('Make a mesh of it');
    expect(only()).toMatchObject({ frame: 3 });
    expect(only().shapes[0].keys[0].shape[2]).toEqual([300, 200]);
  });
});

describe('mending', () => {
  it('lets go of pins, ends the chosen points, and says what is chosen', () => {
    drawSoft(square, false);
    act(() => seenOn(7));
    setBench({ frame: 7, points: [4] });
    const { id, vertices } = only();
    const pinned = vertices.map(([x, y], i): SoftVertex => ({
      ...{ x, y, confidence: 1 },
      state: i === 4 ? 'pinned' : 'tracked',
    }));
    edit((s) => setMeasured(s, { [id]: withSoftSamples(softTrackOf(s, id), [softSample(7, pinned)]) }));
    render(<MendMesh id={id} />);
    expect(screen.getByText('1 point chosen.')).toBeTruthy();
    press('Let go of 1 pin here');
    expect(screen.queryByRole('button', { name: /Let go/ })).toBeNull();
    press('End from 7 on');
    const after = softTrackOf(shotState(), id);
    const states = after.values.states.subarray(
      (7 - after.start) * after.width,
      (8 - after.start) * after.width,
    );
    expect([states[4], states[5] > 0]).toEqual([0, true]);
  });
});
