/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import type { Doubt } from '@lurn/core/doubt';
import { planFor } from '@lurn/core/plan';
import { EMPTY_TRACK, withSamples } from '@lurn/core/track';
import { changeDocument, removeTrackers, shotRequest, spotsOf } from '@lurn/model';
import { bench, setBench, setDoubts } from '../../../state/bench';
import { edit, shotDocument, shotState, undo } from '../../../state/shot';
import { FRAMES, INFO, lying, openBench, shotWith, spot } from '../../../testing/open-bench';
import type { Helpers } from '../stations/station';
import { Doubts } from './Doubts';
import { ShakeLeftPanel } from './ShakeLeftPanel';
import { SpotTable } from './SpotTable';
import { SteadyPanel } from './SteadyPanel';
import { TrackPanel } from './TrackPanel';

jest.mock('sonner', () => ({ toast: { info: jest.fn(), error: jest.fn() } }));
jest.mock('./DoubtStrip', () => ({ DoubtStrip: () => null }));

const doubt = (id: string, from: number, more: Partial<Doubt> = {}): Doubt => ({
  ...{
    spot: id,
    from,
    to: from + 2,
    worst: from + 1,
    reason: 'jump',
    severity: 0.9,
    sentence: `It jumps on ${from}.`,
  },
  ...more,
});

describe('the list of doubts', () => {
  const open = () => {
    openBench(shotWith([spot('gable'), lying(100, 80, 0, 39)], [spot('door'), lying(200, 90, 0, 39)]));
    const list = [4, 10, 16, 22].map((f) => doubt('gable', f));
    act(() => setDoubts({ spotDoubts: [...list, doubt('door', 30, { severity: 0.2 })], edgeDoubts: [] }));
    render(<Doubts quality={{} as never} />);
  };
  const rows = () => within(screen.getByRole('list', { name: 'Doubts' })).getAllByRole('listitem');

  it('tells what has one cause once, and unfolds its places', async () => {
    open();
    expect(screen.getByText('Doubts, worst first: 2')).toBeTruthy();
    expect(rows()).toHaveLength(2);
    await userEvent.click(screen.getByRole('button', { name: '4 places' }));
    const places = within(screen.getByRole('list', { name: 'Places of gable' })).getAllByRole('button');
    expect(places.map((p) => p.textContent)).toEqual(['4–6', '10–12', '16–18', '22–24']);
    await userEvent.click(places[2]);
    expect(bench()).toMatchObject({
      frame: 17,
      selected: ['gable'],
      station: 'repair',
      span: { from: 16, to: 18 },
    });
  });

  it('goes on to the next when one is found to be fine, and takes a whole cause at once', async () => {
    open();
    await userEvent.click(within(rows()[0]).getAllByRole('button')[0]);
    await userEvent.click(screen.getByRole('button', { name: /It is fine/ }));
    expect(bench().doubts).toHaveLength(4);
    expect(bench().doubtAt).not.toBeNull();
    await userEvent.click(screen.getByRole('button', { name: 'All 3 are fine' }));
    expect(bench().doubts.map((d) => d.spot)).toEqual(['door']);
    expect(shotDocument().accepted).toHaveLength(4);
  });
});

describe('the table of spots', () => {
  it('is sorted by what is pressed, with what is not known behind all else', async () => {
    openBench(
      shotWith(
        [spot('a'), lying(100, 80, 0, 9)],
        [spot('b'), lying(200, 90, 0, 39)],
        [spot('c'), lying(50, 50, 0, 19)],
      ),
    );
    setBench({ residuals: { b: 0.2, c: 3 } });
    render(<SpotTable />);
    const order = () =>
      screen
        .getAllByRole('row')
        .slice(1)
        .map((row) => row.textContent?.trim()[0]);
    const sort = (name: RegExp) => userEvent.click(screen.getByRole('button', { name }));
    expect(order()).toEqual(['a', 'b', 'c']);
    await sort(/Cover/);
    expect(order()).toEqual(['b', 'c', 'a']);
    await sort(/Resid/);
    expect(order()).toEqual(['c', 'b', 'a']);
    await sort(/Resid/);
    expect(order()).toEqual(['b', 'c', 'a']);
  });
});

describe('tracking', () => {
  it('says why it is slower where the kernels cannot run, and nothing where they do', () => {
    render(<TrackPanel {...({ tracker: {} } as unknown as Helpers)} />);
    expect(screen.queryByText(/slower/)).toBeNull();
    act(() => setBench({ slower: 'WebAssembly has no vector instructions here.' }));
    screen.getByText(/slower here than it could be\. WebAssembly has no vector/);
    act(() => setBench({ slower: null }));
  });
});

describe('what is left of the shake', () => {
  const swaying = (x: number, y: number, by: number) =>
    withSamples(
      EMPTY_TRACK,
      Array.from({ length: FRAMES }, (_, frame) => ({
        ...{ frame, x: x + by * Math.sin(frame / 2), y, confidence: 1, state: 'tracked' as const },
      })),
    );

  it('leaves out the spot that it tells of, also when another was deleted meanwhile', async () => {
    const corners = [
      [100, 80],
      [500, 90],
      [300, 250],
      [200, 300],
    ] as const;
    const all = corners.map(([x, y], i) => [spot(`s${i}`), swaying(x, y, 6)] as const);
    openBench(shotWith(...all, [spot('railing'), swaying(400, 320, 14)]));
    const steady = planFor(shotRequest(shotState(), INFO))!;
    setBench({ steady, steadyOf: shotState(), station: 'steady' });
    expect(steady.odd.map((o) => o.spot)).toEqual(['railing']);
    // The plan is older than the shot: places in its list are not places in this one.
    edit((state) => removeTrackers(state, ['s0']));
    render(<SteadyPanel {...({ measurer: { measure: () => undefined } } as unknown as Helpers)} />);
    await userEvent.click(screen.getByRole('button', { name: 'Leave it out' }));
    expect(
      spotsOf(shotDocument())
        .filter((s) => !s.used)
        .map((s) => s.id),
    ).toEqual(['railing']);
    act(undo);
    expect(spotsOf(shotDocument()).every((s) => s.used)).toBe(true);
  });

  it('tells the shake of the source, which is the same whatever the goal', () => {
    openBench(shotWith([spot('a'), swaying(100, 80, 6)], [spot('b'), swaying(500, 90, 6)]));
    const told = (goal: 'still' | 'calm') => {
      edit((state) => changeDocument(state, { goal: { ...state.document.goal, goal } }));
      setBench({
        steady: planFor(shotRequest(shotState(), INFO))!,
        steadyOf: shotState(),
        station: 'steady',
      });
      const { container, unmount } = render(
        <SteadyPanel {...({ measurer: { measure: () => undefined } } as unknown as Helpers)} />,
      );
      const text = container.textContent;
      unmount();
      return ['Shake of the source', 'As shot, against this goal'].map(
        (label) => new RegExp(`${label}([\\d.]+) px`).exec(text)![1],
      );
    };
    const [still, calm] = [told('still'), told('calm')];
    expect([still[0], calm[0]]).toEqual(['3.10', '3.10']);
    expect(still[1]).not.toBe(calm[1]);
  });

  it('says why it is steadied so until something else than the surroundings is held', () => {
    openBench();
    const first = { goal: 'still', smoothing: 1, shake: 2, sentence: 'The surroundings are held.' };
    const scene = { first, movers: [{ id: 'scene-0', name: 'surroundings' }] };
    setBench({ clip: { ...bench().clip, made: { scene } } as never, station: 'steady' });
    render(<SteadyPanel {...({ measurer: { measure: () => undefined } } as unknown as Helpers)} />);
    expect(screen.getByText('The surroundings are held.')).toBeTruthy();
    act(() => edit((s) => ({ ...s, document: { ...s.document, held: 'scene-1' } })));
    expect(screen.queryByText('The surroundings are held.')).toBeNull();
  });

  it('tells how much of it is gone, but not of what did not move', () => {
    const all = [[100, 80], [500, 90], [300, 250]].map(([x, y], i) => [spot(`s${i}`), swaying(x, y, 6)] as const); // prettier-ignore
    openBench(shotWith(...all));
    setBench({ steady: planFor(shotRequest(shotState(), INFO))!, station: 'steady' });
    render(<ShakeLeftPanel measure={() => undefined} />);
    expect(screen.getByRole('row', { name: /^Across/ }).textContent).toMatch(/\d %$/);
    expect(screen.getByRole('row', { name: /^Up-down/ }).textContent).toMatch(/–$/);
  });
});
