import { indexClip } from '@lurn/engine';
import { at, clearUp, lurn, setOut } from './testing/try-out.js';

beforeAll(setOut, 60_000);
afterAll(clearUp);

describe('lurn conform', () => {
  it('makes a clip at another rate, says what it did, and nothing in place of what was given', async () => {
    const { status, out } = await lurn(
      'conform',
      at('clip.mp4'),
      '--out',
      at('even.mkv'),
      '--rate',
      '10',
      '--json',
    );
    expect(status).toBe(0);
    expect(JSON.parse(out)).toMatchObject({ note: expect.stringMatching(/10 a second/) as string });
    expect((await indexClip(at('even.mkv'))).info).toMatchObject({ codec: 'ffv1', fps: 10 });
    expect((await lurn('conform', at('even.mkv'), '--out', at('even.mkv'))).status).toBe(1);
  });

  it.each([
    [['--out', 'x.mp4'], /ends in .mkv/],
    [[], /needs --out/],
    [['--out', 'x.mkv', '--rate', '0'], /1 to 240/],
    [['--out', 'x.mkv', '--goal', 'still'], /no option --goal/],
  ])('with %j is told what is wrong', async (more, message) => {
    const { status, err } = await lurn('conform', at('clip.mp4'), ...more);
    expect(status).toBe(2);
    expect(err).toMatch(message);
  });

  it('tells of what is not there', async () => {
    expect(await lurn('conform', at('nowhere'), '--out', at('x.mkv'))).toMatchObject({ status: 1, err: expect.stringMatching(/is not there/) as string }); // prettier-ignore
  });
});
