import { createPlane } from '../picture/plane.js';
import { FrameRun, SeenPictures, type FrameSource } from './frame-run.js';

const source = (asked: string[] = []): FrameSource => ({
  plane(frame, channel) {
    asked.push(`${frame} ${channel}`);
    const plane = createPlane(16, 16);
    plane.data.fill(frame);
    return Promise.resolve(plane);
  },
});

interface Thing {
  readonly name: string;
  /** The frame on which it is lost, and from which on it is hidden. */
  readonly lost?: number;
  readonly hidden?: number;
}

class Things extends FrameRun<Thing, string, { seen: string[]; stopped: string[] }> {
  constructor(
    private readonly things: readonly Thing[],
    from: number,
    to: number,
    signal?: { aborted: boolean },
  ) {
    super(source(), 1, { from, to }, signal);
  }

  protected begin(): Promise<string[]> {
    this.runners = this.things.filter((t) => t.name !== 'flat');
    return Promise.resolve(this.things.filter((t) => t.name === 'flat').map(() => 'flat'));
  }

  protected nothing() {
    return { seen: [], stopped: [] };
  }

  protected advance(thing: Thing, frame: number, result: { seen: string[]; stopped: string[] }) {
    (thing.lost === frame ? result.stopped : result.seen).push(thing.name);
    return Promise.resolve(thing.lost === frame ? null : thing);
  }

  protected withdrawn({ name, hidden }: Thing, frame: number): string | null {
    return hidden !== undefined && frame >= hidden ? `${name} withdrawn` : null;
  }
}

async function all(run: Things) {
  const out: unknown[][] = [];
  for await (const { frame, done, total, seen, stopped } of run.steps())
    out.push([frame, done, total, seen.join(), stopped.join()]);
  return out;
}

describe('a run over frames', () => {
  it('takes all on from frame to frame, either way, and withdraws what is hidden at the end', async () => {
    expect(await all(new Things([{ name: 'a' }, { name: 'b', hidden: 5 }], 4, 6))).toEqual([
      [5, 1, 2, 'a,b', ''],
      [6, 2, 2, 'a,b', 'b withdrawn'],
    ]);
    expect((await all(new Things([{ name: 'a' }], 6, 4))).map(([frame]) => frame)).toEqual([5, 4]);
  });

  it('says first what could not be begun, and ends when nothing goes on', async () => {
    expect(await all(new Things([{ name: 'flat' }, { name: 'a', lost: 2 }], 0, 9))).toEqual([
      [0, 0, 9, '', 'flat'],
      [1, 1, 9, 'a', ''],
      [2, 2, 9, '', 'a'],
    ]);
    expect(await all(new Things([], 0, 9))).toEqual([]);
  });

  it('stops at the signal', async () => {
    const signal = { aborted: false };
    const steps = new Things([{ name: 'a' }], 0, 9, signal).steps();
    await steps.next();
    signal.aborted = true;
    await expect(steps.next()).rejects.toMatchObject({ code: 'stopped' });
  });
});

describe('pictures as they are seen', () => {
  it('are made once a frame and eye, and apart where they are not alike', async () => {
    const asked: string[] = [];
    const pictures = new SeenPictures(source(asked), 2);
    const eye = { channel: 'luma', soften: 0, detail: 0, localContrast: 0 } as const;
    const first = await pictures.of(3, eye);
    expect(await pictures.of(3, eye)).toBe(first);
    const other = await pictures.of(3, eye, 'behind a', (plane) => ({
      ...plane,
      data: plane.data.map(() => 9),
    }));
    expect(other).not.toBe(first);
    await pictures.of(3, { ...eye, channel: 'red' });
    expect(asked).toEqual(['3 luma', '3 luma', '3 red']);
    pictures.next();
    const next = await pictures.of(4, eye);
    next.need(0, 0, 0, 16, 16);
    expect(next.levels[0].data[0]).toBe(4);
  });
});
