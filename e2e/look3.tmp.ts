import { browser, open, page, shot } from './look.tmp.js';
const { t, b } = await open('gondola');
console.log('open', performance.now() | 0);
await b.mark(t as any, ['number', 'hanger']);
console.log('marked', performance.now() | 0);
await b.key('t');
await page.waitForTimeout(15000);
console.log(await b.course('Track').innerText(), await b.course('Repair').innerText());
await b.key('z');
await page.waitForTimeout(1500);
await shot('e1');
await b.key('Shift+C');
await page.waitForTimeout(300);
await b.key('Escape');
await page.getByRole('button', { name: 'Curves of A' }).click();
for (let i = 0; i < 3; i++) await b.key(']');
await page.waitForTimeout(1500);
await shot('e2');
await b.key('1');
await page.getByRole('button', { name: 'Import spots from a file' }).click();
await page
  .getByLabel('File of samples')
  .setInputFiles({
    name: 'door.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from('frame;x;y\n0;612,5;400\n1;613,5;401\n4;615;402\n'),
  });
await page.waitForTimeout(500);
await shot('e3');
await browser.close();
