/** @jest-environment ./apps/web/src/testing/jsdom.mjs */
import { changeDocument } from '@lurn/model';
import { openBench } from '../testing/open-bench';
import { bench, setBench } from './bench';
import { frameAt, keepPlaying, MOST_BEHIND, playOrStop, shuttle } from './player';
import { edit } from './shot';
import { keepSounding } from './sound';

jest.mock('sonner', () => ({ toast: { info: jest.fn() } }));

describe('the frame at a time', () => {
  const times = Float64Array.of(0, 0.04, 0.12, 0.16, 0.5);

  it('is the last that has begun, at constant and varying rates', () => {
    expect([0, 0.039, 0.04, 0.119, 0.13, 0.49, 9].map((t) => frameAt(times, t))).toEqual([
      0, 0, 1, 1, 2, 3, 4,
    ]);
  });

  it('is the first before the beginning', () => expect(frameAt(times, -1)).toBe(0));
});

/** Displays refreshed every 10 ms, by a clock that the test winds; the picture keeps step unless it is held. */
let stop: () => void;
let held = false;
let clock = 0;
let pending: ((now: number) => void)[] = [];
function wind(ms: number): number[] {
  const seen: number[] = [];
  for (const end = clock + ms; clock < end;) {
    clock += 10;
    const due = pending;
    pending = [];
    due.forEach((run) => run(clock));
    if (!held) setBench({ shown: bench().frame });
    if (seen[seen.length - 1] !== bench().frame) seen.push(bench().frame);
  }
  return seen;
}
beforeEach(() => {
  openBench();
  clock = 0;
  pending = [];
  held = false;
  jest.spyOn(performance, 'now').mockImplementation(() => clock);
  jest.spyOn(window, 'requestAnimationFrame').mockImplementation((run) => pending.push(run));
  jest.spyOn(window, 'cancelAnimationFrame').mockImplementation(() => (pending = []));
  stop = keepPlaying();
});
afterEach(() => {
  setBench({ playing: false });
  stop();
  jest.restoreAllMocks();
});

describe('the playhead', () => {
  it('plays every frame at the clip’s rate, and stops', () => {
    playOrStop();
    expect(wind(200)).toEqual([0, 1, 2, 3, 4, 5]);
    playOrStop();
    expect(wind(200)).toEqual([5]);
  });

  it('goes round between in and out point', () => {
    edit((state) => changeDocument(state, { range: { from: 10, to: 12 } }));
    setBench({ frame: 10 });
    playOrStop();
    expect(wind(200).slice(0, 5)).toEqual([10, 11, 12, 10, 11]);
  });

  it('waits for a picture that falls far behind, and goes on at the clip’s rate from there', () => {
    playOrStop();
    wind(40);
    held = true;
    wind(2000);
    expect(bench().frame - bench().shown).toBe(MOST_BEHIND + 1);
    held = false;
    setBench({ shown: bench().frame });
    const from = bench().frame;
    wind(400);
    expect(bench().frame - from).toBe(10);
  });

  it('waits for no picture when it plays faster', () => {
    held = true;
    shuttle(1);
    shuttle(1);
    expect(wind(1000).length).toBeGreaterThan(2 * MOST_BEHIND);
  });

  it('plays faster with each press, backwards too, and at the clip’s rate when it turns', () => {
    const speeds: number[] = [];
    const press = (direction: 1 | -1) => {
      shuttle(direction);
      speeds.push(bench().speed);
    };
    ([1, 1, 1, 1, 1] as const).forEach(press);
    expect(speeds).toEqual([1, 2, 4, 8, 8]);
    press(-1);
    press(-1);
    expect(speeds.slice(-2)).toEqual([-1, -2]);
    setBench({ frame: 20 });
    wind(20); // it was moved by hand meanwhile
    const seen = wind(100);
    expect(seen).toEqual(seen.map((_, i) => seen[0] - i)); // every frame, backwards
    expect(Math.abs(seen.length - 5)).toBeLessThanOrEqual(1);
  });
});

describe('the sound', () => {
  class FakeAudio {
    static last: FakeAudio;
    currentTime = 0;
    paused = true;
    muted = false;
    seeking = false;
    preload = '';
    src = '';
    constructor() {
      FakeAudio.last = this;
    }
    play() {
      this.paused = false;
      return Promise.resolve();
    }
    pause() {
      this.paused = true;
    }
    removeAttribute() {
      this.src = '';
    }
    load() {
      // Nothing is loaded.
    }
  }
  let silence: () => void;
  beforeEach(() => {
    Object.assign(window, { Audio: FakeAudio });
    setBench({ info: { ...bench().info, audio: { codec: 'aac' } } as never, muted: false });
    silence = keepSounding();
  });
  afterEach(() => silence());

  it('begins with the picture where that is, keeps step with it, and stops with it', () => {
    setBench({ frame: 25 });
    playOrStop();
    const { last } = FakeAudio;
    expect(last).toMatchObject({ paused: false, currentTime: 1 });
    last.currentTime = 1.05; // near enough
    setBench({ frame: 26 });
    expect(last.currentTime).toBe(1.05);
    last.currentTime = 1.5; // the picture went round, or fell behind
    setBench({ frame: 27 });
    expect(last.currentTime).toBeCloseTo(1.08, 9);
    playOrStop();
    expect(last.paused).toBe(true);
  });

  it('is silent at any other speed and while it is muted', () => {
    const { last } = FakeAudio;
    shuttle(1);
    expect(last.paused).toBe(false);
    shuttle(1);
    expect(last.paused).toBe(true);
    shuttle(-1);
    expect(last.paused).toBe(true);
    setBench({ muted: true });
    expect(last.muted).toBe(true);
  });
});
