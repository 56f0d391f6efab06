import { readFile } from 'node:fs/promises';
import { indexClip } from '@lurn/engine';
import { at, clearUp, lurn, setOut } from './testing/try-out.js';

beforeAll(async () => {
  await setOut();
  await lurn('track', at('clip.mp4'), '--marks', at('spots.json'), '--out', at('tracks.csv'));
});
afterAll(clearUp);

describe('lurn steady', () => {
  it('renders and writes the motion', async () => {
    const { status, out } = await lurn(
      ...[
        'steady',
        at('clip.mp4'),
        '--tracks',
        at('tracks.csv'),
        '--goal',
        'still',
        '--use',
        'x,y',
        '--fit-zoom',
      ],
      ...['--motion', at('motion.json'), '--out', at('steady.mp4'), '--json'],
    );
    expect(status).toBe(0);
    const result = JSON.parse(out) as Record<string, number>;
    expect(result.shake_before_px).toBeGreaterThan(2);
    expect(result.shake_after_px).toBeLessThan(0.1);
    expect(result.zoom).toBeCloseTo(1 / (1 - 16 / 320), 2);
    const motion = JSON.parse(await readFile(at('motion.json'), 'utf8')) as {
      frames: { motion: number[] }[];
      zoom: number;
    };
    expect(motion.frames).toHaveLength(12);
    expect(motion.frames[2].motion[2]).toBeCloseTo(-8, 0);
    expect((await indexClip(at('steady.mp4'))).info).toMatchObject({ frames: 12, width: 320, height: 180 });
  });

  it('calms: the smoothed course, or one that keeps a zoom limit', async () => {
    const steady = async (...more: string[]) => {
      const argv = [
        'steady',
        at('clip.mp4'),
        '--tracks',
        at('tracks.csv'),
        '--goal',
        'calm',
        '--json',
        ...more,
      ];
      const { status, out, err } = await lurn(...argv);
      expect([status, err]).toEqual([0, '']);
      return JSON.parse(out) as Record<string, number>;
    };
    const weak = await steady('--smooth', '0');
    expect(weak.shake_before_px).toBeLessThan(0.1); // all of it is taken for meant
    expect(weak.fit_zoom).toBeCloseTo(1, 2);
    const strong = await steady('--smooth', '0.4', '--fit-zoom');
    expect(strong.shake_before_px).toBeGreaterThan(2);
    expect(strong.shake_after_px).toBeLessThan(0.15);
    expect(strong.zoom).toBeGreaterThan(1.01);
    const limited = await steady('--smooth', '0.4', '--max-zoom', '1.02', '--fit-zoom');
    expect(limited.zoom).toBeLessThanOrEqual(1.02);
    expect(limited.shake_after_px).toBeLessThan(strong.shake_before_px);
  });

  it('locks the subject and mirrors what lies beyond the edges', async () => {
    const { status, out } = await lurn(
      ...['steady', at('clip.mp4'), '--tracks', at('tracks.csv'), '--goal', 'lock', '--ref', '4'],
      ...['--edges', 'mirrored', '--out', at('locked.mp4'), '--json'],
    );
    expect(status).toBe(0);
    const result = JSON.parse(out) as Record<string, number>;
    expect(result.shake_after_px).toBeLessThan(0.1);
    expect(result.edge_frames).toBeGreaterThan(4);
    expect((await indexClip(at('locked.mp4'))).info.frames).toBe(12);
  });
});
