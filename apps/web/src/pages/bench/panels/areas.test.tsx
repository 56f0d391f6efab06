/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen, within } from '@testing-library/react';
import { drawArea } from '../../../state/areas';
import { reshapeOutline } from '../../../state/outlines';
import { bench, setBench } from '../../../state/bench';
import { shotDocument, undo } from '../../../state/shot';
import { madeScene } from '../../../testing/made-scene';
import { openBench } from '../../../testing/open-bench';
import { Areas } from './Areas';
import { Held } from './Held';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn(), success: jest.fn() } }));

/** Areas and movers in the panels: what is drawn, what it is called, and what goes with what. */

const triangle = [
  { x: 10, y: 10 },
  { x: 90, y: 10 },
  { x: 90, y: 60 },
];

describe('areas', () => {
  it('are drawn from here, and the same button lays the tool down', () => {
    openBench();
    render(<Areas />);
    const ignore = screen.getByRole('button', { name: 'Ignore …' });
    fireEvent.click(ignore);
    expect(bench().tool).toEqual({ id: 'area', kind: 'ignore' });
    expect(ignore.getAttribute('aria-pressed')).toBe('true');
    fireEvent.click(screen.getByRole('button', { name: 'Focus on …' }));
    expect(bench().tool).toEqual({ id: 'area', kind: 'focus' });
    fireEvent.click(screen.getByRole('button', { name: 'Focus on …' }));
    expect(bench().tool).toEqual({ id: 'mark' });
  });

  it('are listed, named, changed and deleted, one step of undo each', () => {
    openBench();
    setBench({ area: null });
    drawArea('ignore', triangle, false);
    render(<Areas />);
    const list = screen.getByRole('list', { name: 'Areas' });
    expect(list.textContent).toContain('Ignorednot measured, 1 key');
    const name = screen.getByLabelText<HTMLInputElement>('Name of the area');
    fireEvent.change(name, { target: { value: '  hand ' } });
    fireEvent.blur(name);
    expect(shotDocument().areas[0].name).toBe('hand');
    fireEvent.change(screen.getByLabelText('Name of the area'), { target: { value: '   ' } });
    fireEvent.blur(screen.getByLabelText('Name of the area'));
    expect(shotDocument().areas[0].name).toBe('hand');
    fireEvent.click(screen.getByRole('button', { name: 'Measured alone' }));
    fireEvent.click(screen.getByLabelText('Smooth curve through its corners'));
    expect(shotDocument().areas[0]).toMatchObject({ kind: 'focus', smooth: true });
    fireEvent.click(screen.getByRole('button', { name: 'Delete hand' }));
    expect(shotDocument().areas).toEqual([]);
    act(undo);
    act(undo);
    expect(shotDocument().areas[0]).toMatchObject({ kind: 'focus', smooth: false });
  });

  it('lead from key to key, and let a key go while another is left', () => {
    openBench();
    drawArea('ignore', triangle, false);
    const { id } = shotDocument().areas[0];
    reshapeOutline({ of: 'area', id }, 20, triangle);
    setBench({ frame: 10 });
    render(<Areas />);
    const keys = within(screen.getByRole('group', { name: 'Keys of the area' }));
    const button = (name: string) => keys.getByRole<HTMLButtonElement>('button', { name });
    expect(button('Remove key').disabled).toBe(true);
    fireEvent.click(button('Key after'));
    expect(bench().frame).toBe(20);
    fireEvent.click(button('Remove key'));
    expect(shotDocument().areas[0].keys.map((k) => k.frame)).toEqual([0]);
    expect(button('Key after').disabled).toBe(true);
    fireEvent.click(button('Key before'));
    expect(bench().frame).toBe(0);
  });
});

describe('what is held', () => {
  const open = () => {
    openBench();
    setBench({ scene: madeScene(), drawing: [], drawn: false });
    render(<Held />);
  };
  afterEach(() => act(() => setBench({ scene: null })));

  it('is chosen from what was found, and gets a name', () => {
    open();
    fireEvent.change(screen.getByLabelText('What is held'), { target: { value: 'scene-2' } });
    expect(shotDocument().held).toBe('scene-2');
    const name = screen.getByLabelText('Name of what is held');
    fireEvent.change(name, { target: { value: 'board' } });
    fireEvent.blur(name);
    expect(shotDocument().movers).toContainEqual({ id: 'scene-2', name: 'board' });
    fireEvent.change(screen.getByLabelText('What is held'), { target: { value: '' } });
    expect(shotDocument().held).toBeNull();
  });

  it('is regrouped by drawing: into another mover, or one of its own, and back as it was found', () => {
    open();
    fireEvent.click(screen.getByRole('button', { name: 'Regroup …' }));
    expect(bench()).toMatchObject({ tool: { id: 'area', kind: 'regroup' }, tint: true });
    const board = [
      { x: 195, y: 105 },
      { x: 445, y: 105 },
      { x: 445, y: 295 },
      { x: 195, y: 295 },
    ];
    const say = (name: string) => {
      act(() => setBench({ tool: { id: 'mark' }, drawing: board, drawn: true }));
      const words = within(screen.getByRole('group', { name: 'What is inside goes with' }));
      fireEvent.click(words.getByRole('button', { name }));
      expect(bench()).toMatchObject({ drawing: [], drawn: false });
    };
    say('Surroundings');
    expect(shotDocument().regroups).toMatchObject([{ frame: 0, to: 'scene-1' }]);
    // Nothing is left of the board as it was found: it cannot be held.
    expect(screen.queryByRole('option', { name: /mover 2/ })).toBeNull();
    say('Nothing else');
    expect(shotDocument().regroups[1].to).toBe('drawn-1');
    expect(screen.getByRole('option', { name: /mover 3/ })).toBeTruthy();
    fireEvent.click(screen.getByRole('button', { name: 'As it was found' }));
    expect(shotDocument().regroups).toEqual([]);
    expect(screen.getByRole('option', { name: /mover 2/ })).toBeTruthy();
  });
});
