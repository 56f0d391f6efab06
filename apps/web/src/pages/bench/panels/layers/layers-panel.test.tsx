/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, fireEvent, render, screen, within } from '@testing-library/react';
import { api } from '../../../../lib/api';
import { bringInClip, bringInGraphics } from '../../../../state/assets';
import { deleteSelected } from '../../../../state/edit-spots';
import { bench, setBench } from '../../../../state/bench';
import { putPaint } from '../../../../state/making-layers';
import { shotDocument, undo } from '../../../../state/shot';
import { madeScene } from '../../../../testing/made-scene';
import { FRAMES, lying, openBench, shotWith, spot } from '../../../../testing/open-bench';
import type { Helpers } from '../../stations/station';
import { LayersPanel } from './LayersPanel';

jest.mock('sonner', () => ({ toast: { warning: jest.fn(), info: jest.fn(), error: jest.fn() } }));
jest.mock('../../../../state/assets', () => ({ bringInClip: jest.fn(), bringInGraphics: jest.fn() }));

/** Work that rides, in the panel: made, put in order, chosen, changed. */

const run = jest.fn();
const layers = () => shotDocument().layers;
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
const choose = (label: string, value: string) =>
  fireEvent.change(screen.getByRole('combobox', { name: label }), { target: { value } });
const type = (label: string, text: string) => {
  const field = screen.getByRole('textbox', { name: new RegExp(`^${label}(,|$)`) });
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
};
const open = () =>
  render(
    <QueryClientProvider client={new QueryClient()}>
      <LayersPanel plater={{ run } as unknown as Helpers['plater']} />
    </QueryClientProvider>,
  );

beforeEach(() => {
  jest.clearAllMocks();
  jest.spyOn(api, 'clips').mockResolvedValue([
    { id: 'c', name: 'valley', status: 'ready' },
    { id: 'd', name: 'summit', status: 'ready' },
    { id: 'e', name: 'late', status: 'reading' },
  ] as never);
  openBench(shotWith([spot('gable'), lying(100, 80, 0, FRAMES - 1)]));
  setBench({ scene: madeScene(), layer: null, masked: null, plating: null, bare: false, frame: 6 });
});

describe('new layers', () => {
  it('are painted at once, or drawn with a tool that the same button lays down', () => {
    open();
    expect(screen.getByText(/Work that rides: it is laid/)).toBeTruthy();
    press('Shape …');
    expect(bench().tool).toEqual({ id: 'area', kind: 'shape' });
    press('Shape …');
    expect(bench().tool).toEqual({ id: 'mark' });
    press('Paint');
    expect(bench().tool).toEqual({ id: 'paint' });
    expect(layers().map((l) => l.kind)).toEqual(['paint']);
    expect(screen.getByRole('heading', { name: layers()[0].name })).toBeTruthy();
  });

  it('conceal what is selected, with a shape that rides on it', () => {
    open();
    expect(screen.queryByRole('button', { name: 'Conceal gable' })).toBeNull();
    act(() => setBench({ selected: ['gable'] }));
    press('Conceal gable');
    expect(layers()[0]).toMatchObject({ kind: 'conceal', rides: { on: 'spot', id: 'gable' } });
  });

  it('come of files, and of other shots that have been read', async () => {
    open();
    const file = new File(['x'], 'sign.png');
    fireEvent.change(screen.getByLabelText('Graphic file'), { target: { files: [file] } });
    expect(bringInGraphics).toHaveBeenCalledWith([file]);
    const list = await screen.findByRole('combobox', { name: 'Clip of another shot' });
    expect(
      within(list)
        .getAllByRole('option')
        .map((o) => o.textContent),
    ).toEqual(['Clip of another shot …', 'summit']);
    fireEvent.change(list, { target: { value: 'd' } });
    expect(bringInClip).toHaveBeenCalledWith('d');
  });

  it('a clean plate tells how far it is, and is stopped by the same button', () => {
    open();
    press('Clean plate');
    act(() => setBench({ plating: { done: 3, total: 20 } as never }));
    expect(screen.getByRole('progressbar', { name: 'Clean plate' })).toHaveProperty('value', 3);
    press('Stop making the plate');
    expect(run).toHaveBeenCalledTimes(2);
  });
});

describe('the list', () => {
  beforeEach(() => {
    putPaint();
    putPaint();
    setBench({ layer: null });
    open();
  });
  const names = () =>
    within(screen.getByRole('list', { name: 'Layers' }))
      .getAllByRole('button', { name: /^Paint \d/ })
      .map((b) => b.textContent);

  it('has the topmost first; they change places, are hidden, chosen and deleted', () => {
    expect(names()).toEqual(['Paint 2', 'Paint 1']);
    expect(screen.getByRole('button', { name: 'Move Paint 2 up' })).toHaveProperty('disabled', true);
    press('Move Paint 1 up');
    expect(names()).toEqual(['Paint 1', 'Paint 2']);
    press('Hide Paint 2');
    expect(layers().find((l) => l.name === 'Paint 2')!.shown).toBe(false);
    press('Show Paint 2');
    press('Paint 2');
    expect(bench().layer).toBe(layers().find((l) => l.name === 'Paint 2')!.id);
    press('Delete Paint 1');
    expect(names()).toEqual(['Paint 2']);
    act(undo);
    expect(names()).toEqual(['Paint 1', 'Paint 2']);
  });

  it('shows the pictures bare', () => {
    fireEvent.click(screen.getByRole('checkbox', { name: 'Show the layers' }));
    expect(bench().bare).toBe(true);
  });
});

describe('the chosen one', () => {
  const only = () => layers()[0];
  beforeEach(() => {
    setBench({ selected: ['gable'] });
    putPaint();
    open();
  });

  it('is blended, and seen as much as is wanted, with keys once there is one', () => {
    choose('Blend', 'multiply');
    type('Opacity', '60');
    expect(only()).toMatchObject({ blend: 'multiply', opacity: 0.6, keys: [] });
    const fold = screen.getByText('Keys').closest('details')!;
    fold.open = true;
    fireEvent(fold, new Event('toggle'));
    press('Key on frame 6');
    act(() => setBench({ frame: 16 }));
    type('Opacity', '20');
    type('Moved across', '12');
    expect(only().keys).toMatchObject([
      { frame: 6, opacity: 0.6, x: 0 },
      { frame: 16, opacity: 0.2, x: 12 },
    ]);
    choose('From here on', 'hold');
    expect(only().keys[1].easing).toBe('hold');
    press('6: 60 %');
    expect(bench().frame).toBe(6);
    press('Take out');
    expect(only().keys.map((k) => k.frame)).toEqual([16]);
  });

  it('rides on what is chosen, and says so where that has been deleted', () => {
    expect(only().rides).toMatchObject({ on: 'spot', id: 'gable' });
    choose('Where not known', 'fade');
    expect(only().unknown).toBe('fade');
    act(() => {
      setBench({ selected: ['gable'], layer: null, points: [] });
      deleteSelected();
      setBench({ layer: only().id });
    });
    expect(screen.getByText(/What it rode on has been deleted/)).toBeTruthy();
    expect(screen.getByText('▲ rides on nothing')).toBeTruthy();
    choose('Rides on', 'frame:');
    expect(only().rides.on).toBe('frame');
    expect(screen.getByText(/stays in its place of the frame/)).toBeTruthy();
  });

  it('is there for some frames; for all of them it has no range', () => {
    type('From frame', '4');
    type('To frame', '9');
    expect(only().range).toEqual({ from: 4, to: 9 });
    type('From frame', '0');
    type('To frame', '900');
    expect(only().range).toBeNull();
    type('Grain', '2.5');
    expect(only().grain).toBe(2.5);
  });

  it('tells the frame that it was made on, and leads there', () => {
    const back = () => screen.getByRole<HTMLButtonElement>('button', { name: '6' });
    expect(back().disabled).toBe(true);
    act(() => setBench({ frame: 20 }));
    fireEvent.click(back());
    expect(bench().frame).toBe(6);
  });
});
