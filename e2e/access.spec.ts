import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, type Page } from '@playwright/test';
import { BenchDriver } from './bench-page.js';
import { test } from './kept-page.js';
import { TestServer } from './server.js';

/** Accessibility: axe finds nothing serious, and the work can be done from the keyboard. */

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
let server: TestServer;
test.beforeAll(async () => {
  server = await TestServer.start({ demo: true });
});
test.afterAll(() => server.stop());

interface Axe {
  run(options: object): Promise<{ violations: { id: string; impact: string; nodes: { html: string }[] }[] }>;
}

/** @param rules  those that are asked; all when left out */
async function faults(page: Page, rules?: readonly string[]): Promise<string[]> {
  await page.evaluate(axe);
  return page.evaluate(async (only) => {
    const { axe } = globalThis as unknown as { axe: Axe };
    const { violations } = await axe.run(only ? { runOnly: only } : {});
    return violations
      .filter((v) => ['serious', 'critical'].includes(v.impact))
      .map((v) => `${v.id}: ${v.nodes[0].html.slice(0, 160)}`);
  }, rules);
}

// What is not about colours does not depend on the theme.
for (const [theme, rules] of [
  ['night', undefined],
  ['day', ['color-contrast']],
] as const) {
  test(`axe finds nothing serious in the ${theme} theme`, async ({ page }) => {
    await page.goto(server.url);
    await page.evaluate((t) => localStorage.setItem('lurn.theme', t), theme);
    await page.reload();
    await expect(page.getByRole('listitem', { name: 'station' })).toBeVisible();
    expect(await faults(page, rules)).toEqual([]);
    const bench = new BenchDriver(page, { width: 1280, height: 720 });
    await bench.open(server.url, 'station');
    if ((await bench.spots()) === 0) await bench.key('n');
    for (const station of ['1', '2', '3', '4', '5', '6']) {
      await bench.key(station);
      expect(await faults(page, rules), `station ${station}`).toEqual([]);
    }
  });
}

test('a spot is placed, nudged and tracked by keys alone', async ({ page }) => {
  const bench = new BenchDriver(page, { width: 960, height: 540 });
  await bench.open(server.url, 'gondola');
  for (const key of ['n', 'Alt+Shift+ArrowDown', 'Alt+ArrowLeft', 'g']) await bench.key(key);
  await bench.shows(/frame 1\./);
  await bench.key('2');
  await expect(page.getByRole('cell', { name: '1 %' })).toBeVisible();
  await bench.key('Shift+Slash');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toHaveCount(0);
});

test('nothing on the Bench needs the page to scroll at 1280 x 800', async ({ page }) => {
  const bench = new BenchDriver(page, { width: 1280, height: 720 });
  await bench.open(server.url, 'station');
  const size = await page.evaluate(() => [
    document.documentElement.scrollWidth,
    document.documentElement.scrollHeight,
  ]);
  expect(size).toEqual([1280, 800]);
});
