import { chromium, type Page } from '@playwright/test';
import type { EdgeMode } from '@lurn/core/warp';
import { BenchDriver, truthOf } from '../e2e/bench-page.js';
import { READS_DEMO, TestServer } from '../e2e/server.js';
import { trackedShot } from '../e2e/tracked.js';
import type { Show } from './tracking.js';

/** How many of a clip's pictures are seen when it plays on the Bench with the correction on, at 1280 x 800. */

const SPOTS = ['hut', 'cairn', 'board', 'pylon head'];
const SECONDS = 5;

/** Collects the frames that the page says it shows, once a display frame. As text: it runs in the page. */
const WATCH = `(() => {
  const picture = document.querySelector('[role=application]');
  const seen = (globalThis.seenFrames = []);
  const look = () => {
    const frame = Number(/frame (\\d+)/.exec(picture.getAttribute('aria-label'))[1]);
    if (seen[seen.length - 1] !== frame) seen.push(frame);
    globalThis.watching = requestAnimationFrame(look);
  };
  look();
})()`;

/** Plays, and counts. @returns pictures seen a second */
export async function seenWhilePlaying(page: Page): Promise<number> {
  await page.evaluate(WATCH);
  await page.locator('body').press('Space');
  await page.waitForTimeout(1000);
  const start = await page.evaluate<number>('seenFrames.length = 0, performance.now()');
  await page.waitForTimeout(SECONDS * 1000);
  const [seen, end] = await page.evaluate<[number, number]>('[seenFrames.length, performance.now()]');
  await page.locator('body').press('Space');
  await page.evaluate('cancelAnimationFrame(watching)');
  return (seen / (end - start)) * 1000;
}

export async function playing(show: Show): Promise<void> {
  const truth = truthOf('ridge');
  const server = await TestServer.start({ env: READS_DEMO });
  await server.ready();
  const shot = trackedShot(truth, SPOTS);
  const browser = await chromium.launch({
    executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const bench = new BenchDriver(page, truth.clip);
  const rate = async (name: string, layout: string, mode: EdgeMode = 'colour') => {
    const { document } = shot;
    const edges = { ...document.edges, mode };
    const framing = { ...document.framing, mode: mode === 'colour' ? ('fit' as const) : ('none' as const) };
    const goal = { ...document.goal, goal: 'calm' as const };
    await server.save('ridge', { ...shot, document: { ...document, goal, edges, framing } });
    await bench.open(server.url, 'ridge');
    await bench.key('4');
    await page.getByRole('button', { name: layout, exact: true }).click();
    await page.waitForTimeout(2500);
    const seen = (await seenWhilePlaying(page)) / truth.clip.fps;
    show(`pictures seen / pictures of the clip, 1280 x 720, ${name}`, seen.toFixed(2), 'about 1');
  };
  await rate('the source alone', 'Source');
  await rate('the steadied picture', 'Steadied');
  await rate('both', 'Both');
  await rate('both, mirrored edges', 'Both', 'mirrored');
  await rate('both, borrowed edges', 'Both', 'borrowed');
  await rate('the difference from the reference frame', 'Difference');
  await browser.close();
  await server.stop();
}
