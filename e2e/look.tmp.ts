import { chromium } from '@playwright/test';
import { BenchDriver, truthOf } from './bench-page.js';
const url = process.env.URL ?? 'http://127.0.0.1:4780/';
export const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
});
export const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (e) => console.log('PAGEERROR', e.message));
page.on('console', (m) => m.type() === 'error' && console.log('CONSOLE', m.text()));
export async function open(name: string) {
  const t = truthOf(name);
  const b = new BenchDriver(page, t.clip);
  await b.open(url, name);
  return { t, b };
}
export const shot = (n: string) => page.screenshot({ path: `/tmp/look-${n}.png` });
