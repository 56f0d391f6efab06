/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { act, render, screen, within } from '@testing-library/react';
import { userEvent } from '@testing-library/user-event';
import { planFor } from '@lurn/core/plan';
import type { AnalysedScene } from '@lurn/core/solve';
import { holdMover, shotRequest } from '@lurn/model';
import { bench, setBench } from '../../../state/bench';
import { shotDocument, shotState, undo } from '../../../state/shot';
import { madeScene } from '../../../testing/made-scene';
import { openBench } from '../../../testing/open-bench';
import { Candidates } from './Candidates';

const made = madeScene();
const evidence = { reach: 0.9, presence: 1, behind: 0.4, slide: 1 };
const scene: AnalysedScene = { ...made, movers: made.movers.map((m) => ({ ...m, evidence })) };
const planHolding = (id: string | null) =>
  planFor(shotRequest(holdMover(shotState(), id, scene.movers[1]), bench().info), scene)!;
const cards = () => within(screen.getByRole('group', { name: 'What may be held' })).getAllByRole('button');
const pressed = () => cards().map((c) => c.getAttribute('aria-pressed'));

beforeEach(() => {
  openBench();
  act(() => setBench({ scene, steady: planHolding(null), instead: { 'scene-2': planHolding('scene-2') } }));
  render(<Candidates />);
});
afterEach(() => act(() => setBench({ scene: null, steady: null, instead: {}, tried: null })));

it('shows what may be held, with how far it moves and the zoom it would cost, and holds it by a press', async () => {
  expect(pressed()).toEqual(['true', 'false']);
  expect(cards()[0].textContent).toMatch(/Surroundings.*moves \d+(\.\d)? px.*zoom 1\d\d %/);
  expect(cards()[0].title).toContain('is held: it is there throughout');
  await userEvent.click(cards()[1]);
  expect(shotDocument().held).toBe('scene-2');
  act(undo);
  expect(pressed()).toEqual(['true', 'false']);
});

it('steadies the picture by another while that is hovered, and by what is held after', async () => {
  await userEvent.hover(cards()[1]);
  expect(bench().tried).toBe(bench().instead['scene-2']);
  await userEvent.unhover(cards()[1]);
  expect(bench().tried).toBeNull();
  await userEvent.hover(cards()[0]);
  expect(bench().tried).toBeNull();
});
