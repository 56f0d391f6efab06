import type { Plan } from '@lurn/core/plan';
import type { ClipMade } from '@lurn/model';
import { bench } from '../../../state/bench';
import { shotDocument, useShot } from '../../../state/shot';
import { INFO, openBench } from '../../../testing/open-bench';
import { mark } from './mark';
import { standingOf } from './station';

jest.mock('../panels/MarkPanel', () => ({ MarkPanel: () => null }));

const movers = [
  { id: 'm0', name: 'surroundings', share: 0.871 },
  { id: 'm1', name: 'mover 2', share: 0.09 },
];
const plan = { mover: null, motion: { support: [] } } as unknown as Plan;
const told = (scene: object | null, steady: Plan | null = plan) => {
  const clip = { ...bench().clip, made: { scene } as unknown as ClipMade };
  const rest = { info: INFO, clip, steady, tracking: null, doubts: 0 };
  return mark.progress(standingOf(useShot.getState().state, rest));
};
const document = (changes: object) => {
  const { state } = useShot.getState();
  useShot.setState({ state: { ...state, document: { ...shotDocument(), ...changes } } });
};

beforeEach(() => {
  openBench();
  document({ trackers: [] });
});

it('tells what is held of the picture, and how much of it that is, while nothing is marked', () => {
  expect(told({ movers, cuts: [] })).toEqual({
    done: true,
    text: 'Surroundings held: 87\u00a0% of the picture, nothing marked',
  });
  document({ held: 'm1' });
  expect(told({ movers, cuts: [] }).text).toBe('Mover 2 held: 9\u00a0% of the picture, nothing marked');
  document({ held: 'm1', movers: [{ id: 'm1', name: 'gondola' }] });
  expect(told({ movers, cuts: [] }).text).toBe('Gondola held: 9\u00a0% of the picture, nothing marked');
});

it('of a mover of the editor’s own nobody knows how much it is; without a scene the next step is told', () => {
  document({ held: 'own', movers: [{ id: 'own', name: 'both cars' }] });
  expect(told({ movers, cuts: [] }).text).toBe('Both cars held, nothing marked');
  document({ held: null, movers: [] });
  expect(told(null).text).toBe('Mark two features, far apart');
  expect(told({ movers, cuts: [] }, null)).toEqual({ done: false, text: 'Mark two features, far apart' });
});
