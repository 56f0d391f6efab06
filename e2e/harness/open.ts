import { fileURLToPath } from 'node:url';
import { test, type Page } from '@playwright/test';
import { build } from 'esbuild';

let bundle: Promise<string> | null = null;

/** A page with the harness in it for all tests of a file. @param url  of the server, once it is up */
export function sharedHarness(url: () => string): () => Page {
  let page: Page;
  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage();
    await openHarness(page, url());
  });
  test.afterAll(() => page.close());
  return () => page;
}

/** Opens an empty page of the server with the harness in it; same origin, so that clips can be fetched. */
export async function openHarness(page: Page, url: string): Promise<void> {
  bundle ??= build({
    entryPoints: [fileURLToPath(new URL('page.ts', import.meta.url))],
    bundle: true,
    write: false,
    format: 'esm',
    target: 'es2022',
  }).then((result) => result.outputFiles[0].text);
  const script = await bundle;
  await page.route('**/harness', (route) =>
    route.fulfill({
      contentType: 'text/html',
      // As the server sends them: memory may be shared only in a page that is isolated from other origins.
      headers: {
        'Cross-Origin-Opener-Policy': 'same-origin',
        'Cross-Origin-Embedder-Policy': 'require-corp',
      },
      body: `<!doctype html><script type="module">${script}</script>`,
    }),
  );
  await page.goto(`${url}/harness`);
  await page.waitForFunction(() => 'harness' in globalThis);
}
