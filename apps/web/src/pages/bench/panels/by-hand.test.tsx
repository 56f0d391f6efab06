/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, fireEvent, render, screen } from '@testing-library/react';
import { EMPTY_TRACK, hasSample, sampleAt, withSamples, type Grip } from '@lurn/core/track';
import { spotsOf, trackOf } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { shotDocument, shotState, undo } from '../../../state/shot';
import { FRAMES, lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import { ByHand } from './ByHand';
import { DeleteSamples } from './DeleteSamples';
import { SpotDetails } from './SpotDetails';

jest.mock('sonner', () => ({ toast: { error: jest.fn(), info: jest.fn(), success: jest.fn() } }));

/** A spot by hand: its numbers, its samples, placing it frame after frame. */

const gable = () => spotsOf(shotDocument())[0];
const track = () => trackOf(shotState(), 'gable');
const press = (name: string | RegExp) => fireEvent.click(screen.getByRole('button', { name }));
const type = (label: string, text: string) => {
  const field = screen.getByRole('textbox', { name: new RegExp(`^${label}(,|$)`) });
  fireEvent.change(field, { target: { value: text } });
  fireEvent.blur(field);
};

beforeEach(() => {
  openBench(shotWith([spot('gable'), lying(100, 80, 0, FRAMES - 1)]));
  setBench({ selected: ['gable'], frame: 5, grips: {}, preview: null, points: [] });
});

describe('a spot in numbers', () => {
  const Details = () => <SpotDetails spot={gable()} />;
  const open = () => {
    const { rerender } = render(<Details />);
    return () => rerender(<Details />);
  };

  it('is pinned where it is typed to be', () => {
    open();
    type('Across', '104 + 0.25');
    type('Down', '79.5');
    expect(sampleAt(track(), 5)).toMatchObject({ x: 104.25, y: 79.5, state: 'pinned' });
    act(undo);
    act(undo);
    expect(sampleAt(track(), 5)).toMatchObject({ x: 100, y: 80, state: 'tracked' });
  });

  it('says how well it grips, and that its patch reaches beyond the picture', () => {
    const grip: Grip = { error: 0.034, slides: null, lookalike: null } as unknown as Grip;
    setBench({ grips: { gable: grip } });
    const again = open();
    expect(screen.getByText('± 0.03 px')).toBeTruthy();
    expect(screen.getByText('Holds firmly.')).toBeTruthy();
    expect(screen.queryByText(/beyond the picture/)).toBeNull();
    type('Across', '4');
    again();
    expect(screen.getByText(/reaches 5 px beyond the picture/)).toBeTruthy();
  });

  it('keeps its sizes within what a patch and a reach can be', () => {
    const again = open();
    type('Patch, half width', '12');
    again();
    type('Reach up and down', '40');
    again();
    expect(gable()).toMatchObject({ patch: [12, 9], reach: [12, 40] });
    type('Patch, half height', '100000');
    expect(gable().patch[1]).toBeLessThan(1000);
  });

  it('is renamed, never to nothing; left out of the solve; deleted', () => {
    const again = open();
    const name = screen.getByRole<HTMLInputElement>('textbox', { name: 'Name of gable' });
    fireEvent.change(name, { target: { value: '   ' } });
    fireEvent.blur(name);
    expect(name.value).toBe('gable');
    fireEvent.click(screen.getByRole('checkbox', { name: /used/ }));
    expect(gable().used).toBe(false);
    fireEvent.change(name, { target: { value: ' roof ' } });
    fireEvent.blur(name);
    again();
    expect(gable().name).toBe('roof');
    press(/Delete roof/);
    expect(spotsOf(shotDocument())).toEqual([]);
  });
});

describe('samples', () => {
  it('are deleted here, over a span, or to either end; undo brings them back', () => {
    setBench({ span: { from: 10, to: 12 } });
    render(<DeleteSamples who="gable" />);
    const there = () => Array.from({ length: FRAMES }, (_, f) => f).filter((f) => hasSample(track(), f));
    press('Frame 5');
    expect(there()).not.toContain(5);
    press('10 to 12');
    expect(there()).toHaveLength(FRAMES - 4);
    press('Up to 5');
    expect(there()[0]).toBe(6);
    act(() => setBench({ frame: 20 }));
    press('From 20 on');
    expect(there().at(-1)).toBe(19);
    for (let i = 0; i < 4; i++) act(undo);
    expect(there()).toHaveLength(FRAMES);
  });

  it('there is no span to delete where none is chosen', () => {
    setBench({ span: null, doubtAt: null });
    render(<DeleteSamples who="" />);
    expect(screen.getByRole('heading').textContent).toBe('Delete samples of all');
    expect(screen.getByRole('button', { name: 'The span' })).toHaveProperty('disabled', true);
  });
});

describe('placing by hand', () => {
  it('is begun with a step, which can be changed meanwhile, and ended by the same button', () => {
    render(<ByHand />);
    type('Then step on by', '3');
    press('Place by hand');
    expect(bench().tool).toEqual({ id: 'by-hand', step: 3 });
    type('Then step on by', '-2');
    expect(bench().tool).toEqual({ id: 'by-hand', step: -2 });
    press(/press here to end/);
    expect(bench().tool).toEqual({ id: 'mark' });
  });

  it('the hand’s jitter is tamed once what is shown is applied, and dropped without a trace', () => {
    const shaky = Array.from({ length: 12 }, (_, frame) => ({
      ...{ frame, x: 100 + (frame % 2), y: 80, confidence: 1, state: 'pinned' as const },
    }));
    openBench(shotWith([spot('gable'), withSamples(EMPTY_TRACK, shaky)]));
    setBench({ selected: ['gable'] });
    render(<ByHand />);
    const before = shotState();
    type('Tame the hand’s jitter', '50');
    expect(bench().preview).not.toBeNull();
    press('Drop');
    expect(bench().preview).toBeNull();
    expect(shotState()).toBe(before);
    type('Tame the hand’s jitter', '50');
    press('Apply what the curve shows');
    expect(bench().preview).toBeNull();
    const strays = shaky.map(({ frame }) => Math.abs(sampleAt(track(), frame)!.x - 100.5));
    expect(Math.max(...strays.slice(2, -2))).toBeLessThan(0.4);
  });
});
