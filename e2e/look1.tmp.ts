import { browser, open, page, shot } from './look.tmp.js';
const { t, b } = await open('gondola');
const f = t.features.find((f) => f.name === 'number')!;
await b.press(...f.positions[0]);
await b.type(...f.positions[0]);
const l = t.features.find((f) => f.name === 'left window')!;
await page.keyboard.press('Escape');
await b.press(...l.positions[0]);
await b.type(...l.positions[0]);
await page.keyboard.press('Enter');
await page.waitForTimeout(800);
await shot('g1');
await page.locator('[role=application]').focus();
await page.keyboard.press('2');
await page.keyboard.press('t');
await page.waitForTimeout(500);
await page.waitForFunction(() => !document.querySelector('progress[aria-label=Tracking]'), null, {
  timeout: 90000,
});
await page.waitForTimeout(1500);
await page.keyboard.press('3');
await page.keyboard.press('z');
await page.waitForTimeout(2500);
await shot('g2');
await browser.close();
