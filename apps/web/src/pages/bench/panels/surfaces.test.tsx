/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen, within } from '@testing-library/react';
import { rectangle, type Quad } from '@lurn/core/geometry';
import { withSurfaceSamples } from '@lurn/core/track';
import { quadOf, setMeasured, surfacesOf, surfaceTrackOf } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { edit, shotDocument, undo } from '../../../state/shot';
import { addOutline, drawSurface } from '../../../state/surfaces';
import { openBench } from '../../../testing/open-bench';
import { Surfaces } from './Surfaces';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn(), success: jest.fn() } }));

/** Flat surfaces in the panel: drawn, chosen, changed. */

const [board, door] = [rectangle(100, 80, 300, 200), rectangle(350, 80, 420, 200)];
const all = () => surfacesOf(shotDocument());
const only = () => all()[0];
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
const tick = (name: string | RegExp) => fireEvent.click(screen.getByRole('checkbox', { name }));
const unfold = (title: string) => {
  const fold = screen.getByText(title).closest('details')!;
  fold.open = true;
  fireEvent(fold, new Event('toggle'));
};

beforeEach(() => {
  openBench();
  setBench({ frame: 3, onlySelected: false, gridCheck: false, misfits: false });
});

it('where there is none it is said what one is for; both tools are taken up and laid down here', () => {
  render(<Surfaces />);
  expect(screen.getByText(/A door, a sign, a screen/)).toBeTruthy();
  for (const [name, box] of [
    ['Draw round …', false],
    ['Rectangle …', true],
  ] as const) {
    press(name);
    expect(bench().tool).toEqual({ id: 'area', kind: 'surface', box });
    press(name);
    expect(bench().tool).toEqual({ id: 'mark' });
  }
});

it('each is listed with how far it is tracked; pressing chooses it, and again lets go', () => {
  drawSurface(board, false);
  drawSurface(door, false);
  const corners = quadOf(only().base) as unknown as Quad;
  const samples = [3, 4, 5].map((frame) => ({ frame, corners, confidence: 1, state: 'tracked' as const }));
  const { id } = only();
  edit((s) => setMeasured(s, { [id]: withSurfaceSamples(surfaceTrackOf(s, id), samples) }));
  setBench({ selected: [] });
  render(<Surfaces />);
  const list = within(screen.getByRole('list', { name: 'Flat surfaces' }));
  expect(list.getAllByRole('button').map((b) => b.textContent)).toEqual([
    'Surface 13 frames',
    'Surface 21 frame',
  ]);
  fireEvent.click(list.getByRole('button', { name: /Surface 2/ }));
  expect(bench().selected).toEqual([all()[1].id]);
  expect(screen.getByRole('heading', { name: 'Surface 2' })).toBeTruthy();
  fireEvent.click(list.getByRole('button', { name: /Surface 2/ }));
  expect(bench().selected).toEqual([]);
});

describe('the chosen one', () => {
  beforeEach(() => {
    drawSurface(board, false);
    render(<Surfaces />);
  });

  it('is held, steadied in how it leans, and followed as is chosen; all of it is undone', () => {
    tick('Hold it');
    expect(shotDocument().held).toBe(only().mover);
    const { perspective } = only();
    tick('Steady how it leans, too');
    expect(only().perspective).toBe(!perspective);
    unfold('How it is followed');
    fireEvent.change(screen.getByRole('combobox', { name: 'It may' }), { target: { value: 'similarity' } });
    fireEvent.change(screen.getByRole('combobox', { name: 'When not found' }), { target: { value: 'stop' } });
    expect(only()).toMatchObject({ allow: 'similarity', lowMatch: 'stop' });
    for (let i = 0; i < 4; i++) act(undo);
    expect(only().perspective).toBe(perspective);
    expect(shotDocument().held).toBeNull();
  });

  it('takes parts and leaves parts out where it is known, and they can be removed', () => {
    expect(screen.getByRole('button', { name: 'Add a part …' })).toHaveProperty('disabled', false);
    act(() => setBench({ frame: 9 }));
    expect(screen.getByRole('button', { name: 'Leave out …' })).toHaveProperty('disabled', true);
    act(() => setBench({ frame: 3 }));
    press('Leave out …');
    expect(bench().tool).toMatchObject({ id: 'area', kind: 'less' });
    act(() => addOutline('ignore', rectangle(150, 100, 200, 150), false));
    expect(within(screen.getByRole('list', { name: 'Outlines' })).getByText('left out')).toBeTruthy();
    press('Remove outline 2');
    expect(only().shapes).toHaveLength(1);
  });

  it('shows a grid of as many cells as are asked for, and what its parts say', () => {
    expect(screen.queryByRole('textbox', { name: 'Cells across' })).toBeNull();
    tick('Grid check');
    expect(bench().gridCheck).toBe(true);
    const field = screen.getByRole('textbox', { name: 'Cells across' });
    fireEvent.change(field, { target: { value: '7' } });
    fireEvent.blur(field);
    expect(only().grid[0]).toBe(7);
    tick('Show how each part fits');
    expect(screen.getByText(/Green sticks/)).toBeTruthy();
  });

  it('is known to pass behind others where there are any', () => {
    unfold('How it is followed');
    expect(screen.queryByText('Passes in front of it:')).toBeNull();
    const { id } = only();
    act(() => {
      drawSurface(door, false);
      setBench({ selected: [id] });
    });
    tick('Surface 2');
    expect(only().behind).toEqual([all()[1].id]);
    tick('Surface 2');
    expect(only().behind).toEqual([]);
  });

  it('is laid flat once it is known on the frame', () => {
    unfold('Laid flat');
    expect(screen.getByText(/track it first/)).toBeTruthy();
  });

  it('is renamed and deleted', () => {
    const name = screen.getByRole('textbox', { name: 'Name of the surface' });
    fireEvent.change(name, { target: { value: 'station sign' } });
    fireEvent.blur(name);
    expect(only().name).toBe('station sign');
    press('Delete station sign');
    expect(all()).toEqual([]);
  });
});
