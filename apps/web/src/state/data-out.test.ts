/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { OUR_CHOICES } from '@lurn/core/formats';
import { planFor } from '@lurn/core/plan';
import { shotRequest } from '@lurn/model';
import { INFO, lying, openBench, shotWith, spot } from '../testing/open-bench';
import {
  asTable,
  asValuesOverTime,
  dataNow,
  forgetTarget,
  keepTarget,
  keptTargets,
  type DataSource,
} from './data-out';
import { shotState } from './shot';

const source = (): DataSource => {
  openBench(shotWith([spot('gable'), lying(100, 80, 0, 3)], [spot('door'), lying(200, 90, 1, 2)]));
  const state = shotState();
  const times = Array.from({ length: INFO.frames }, (_, f) => f / INFO.fps);
  const plan = planFor(shotRequest(state, INFO), null);
  return { state, info: INFO, times, plan, heldName: null, cuts: [], scene: null };
};

describe('data of a shot', () => {
  it('is of what there is', () => {
    const there = dataNow(source());
    expect(Object.keys(there)).toEqual(['motion', 'tracks']);
    expect(there.tracks!().things.map((t) => [t.name, t.frames.length])).toEqual([
      ['gable', 4],
      ['door', 2],
    ]);
    const { things, solved } = there.motion!();
    expect(things[0].frames).toHaveLength(shotState().document.range.to + 1);
    expect(solved).toMatchObject({ ref: 0, cuts: [] });
    expect(dataNow({ ...source(), plan: null }).motion).toBeUndefined();
  });

  it('is copied as rows of frames, or as rows of values', () => {
    const data = dataNow(source()).tracks!();
    const table = asTable(data, { ...OUR_CHOICES, first: 1 }).split('\n');
    expect(table[0].split('\t').slice(0, 4)).toEqual(['spot', 'frame', 'time_s', 'x_px']);
    expect(table[1].split('\t').slice(0, 2)).toEqual(['gable', '1']);
    const over = asValuesOverTime(data, OUR_CHOICES).split('\n');
    expect(over[2]).toMatch(/^gable x_px\t100/);
    expect(over.find((r) => r.startsWith('door frame'))).toBe('door frame\t1\t2');
  });
});

describe('targets', () => {
  beforeEach(() => localStorage.clear());

  it('are kept by name, the last of a name alone, and forgotten', () => {
    keepTarget({ name: 'grading', as: 'csv', choices: OUR_CHOICES });
    keepTarget({ name: 'compositor', as: 'json', choices: OUR_CHOICES });
    const list = keepTarget({ name: 'grading', as: 'csv', choices: { ...OUR_CHOICES, first: 1001 } });
    expect(list.map((t) => [t.name, t.choices.first])).toEqual([
      ['compositor', 0],
      ['grading', 1001],
    ]);
    expect(forgetTarget('compositor')).toHaveLength(1);
    expect(keptTargets()[0].name).toBe('grading');
  });

  it.each(['{', '7', '[{"name":"x"}]', '[{"name":"x","as":"tape","choices":{}}]'])(
    '%s is passed over',
    (text) => {
      localStorage.setItem('lurn.targets', text);
      expect(keptTargets()).toEqual([]);
    },
  );
});
