/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen } from '@testing-library/react';
import { bench, setBench } from '../../../state/bench';
import { shotDocument, undo } from '../../../state/shot';
import { FRAMES, openBench } from '../../../testing/open-bench';
import { CalmSettings, LockSettings, StillSettings } from './GoalSettings';

/** What each goal leaves to the editor. */

beforeEach(() => openBench());

const goal = () => shotDocument().goal;
const choose = (label: string, value: string) =>
  fireEvent.change(screen.getByRole('combobox', { name: label }), { target: { value } });
const named = (label: string) => ({ name: new RegExp(`^${label}(,|$)`) });
/** Types into a number's field. */
const type = (label: string, text: string) => {
  const field = screen.getByRole('textbox', named(label));
  fireEvent.focus(field);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
};

describe('Still', () => {
  it('stands as a frame that is chosen by number or by being there, and the way leads back to it', () => {
    setBench({ frame: 12 });
    render(<StillSettings />);
    fireEvent.click(screen.getByRole('button', { name: 'This frame' }));
    expect(shotDocument().ref).toBe(12);
    type('Reference frame', '3 + 4');
    expect(shotDocument().ref).toBe(7);
    type('Reference frame', '900');
    expect(shotDocument().ref).toBe(FRAMES - 1);
    act(undo);
    act(undo);
    expect(shotDocument().ref).toBe(12);
    setBench({ frame: 30 });
    fireEvent.click(screen.getByRole('button', { name: 'Go to it' }));
    expect(bench().frame).toBe(12);
  });

  it('or as all of them on average: then no frame is asked for', () => {
    render(<StillSettings />);
    choose('Stands as', 'average');
    expect(goal().pose).toBe('average');
    expect(screen.queryByRole('textbox')).toBeNull();
  });
});

describe('Calm', () => {
  it('smooths all alike, or each component on its own', () => {
    render(<CalmSettings />);
    type('Smoothing', '1.5 s');
    expect(goal().calm.smoothing).toEqual({ x: 1.5, y: 1.5, rotation: 1.5, scale: 1.5 });
    const each = screen.getByRole('checkbox', { name: 'Each component on its own' });
    fireEvent.click(each);
    type('Rotation', '4');
    expect(goal().calm.smoothing).toEqual({ x: 1.5, y: 1.5, rotation: 4, scale: 1.5 });
    fireEvent.click(each);
    expect(goal().calm.smoothing).toEqual({ x: 1.5, y: 1.5, rotation: 1.5, scale: 1.5 });
    expect(screen.queryByRole('textbox', named('Rotation'))).toBeNull();
  });

  it('opens with its components apart where they are', () => {
    render(<CalmSettings />);
    fireEvent.click(screen.getByRole('checkbox'));
    type('Scale', '2');
    render(<CalmSettings />);
    expect(screen.getAllByRole('textbox', named('Rotation'))).toHaveLength(2);
  });

  it('asks how far a camera-like path may zoom, and takes no less than none', () => {
    render(<CalmSettings />);
    expect(screen.queryByRole('textbox', named('Zoom at most'))).toBeNull();
    choose('Method', 'optimal');
    type('Zoom at most', '120 %');
    expect(goal().calm).toMatchObject({ method: 'optimal', maxZoom: 1.2 });
    type('Zoom at most', '20');
    expect(goal().calm.maxZoom).toBe(1);
    expect(screen.getByText(/as on a dolly/)).toBeTruthy();
  });
});

describe('Lock', () => {
  it('nails the subject, or lets it float within a tolerance along a course that can be smoothed', () => {
    render(<LockSettings />);
    expect(screen.getByText(/Nailed to its place/)).toBeTruthy();
    expect(screen.queryByRole('textbox', named('Smoothing'))).toBeNull();
    type('Tolerance', '12');
    expect(goal().lock.tolerance).toBe(12);
    expect(screen.getByText(/floats along its own/)).toBeTruthy();
    type('Smoothing', '3');
    expect(goal().calm.smoothing.x).toBe(3);
  });

  it('holds it where it is, in the middle, or where it is put, and eases in and out', () => {
    render(<LockSettings />);
    choose('Held', 'middle');
    type('Eases in', '0.5');
    type('Eases out', '1');
    expect(goal().lock).toMatchObject({ place: 'middle', easeIn: 0.5, easeOut: 1 });
    expect(screen.getByText('Drag the ring in the steadied picture to put it elsewhere.')).toBeTruthy();
  });
});
