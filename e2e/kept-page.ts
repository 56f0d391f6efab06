import { test as base, type BrowserContext, type Page } from '@playwright/test';

interface Kept {
  readonly context: BrowserContext;
  readonly page: Page;
}

/**
 * Tests in one page after the other: what the browser has compiled of the application stays, which is a third of what it
 * costs to open a Bench. Nothing else does: storage, listeners, size and further pages begin anew with each test.
 */
export const test = base.extend<{ context: BrowserContext; page: Page }, { kept: Kept }>({
  kept: [
    async ({ browser }, use, { project }) => {
      const { viewport, actionTimeout } = project.use;
      const context = await browser.newContext({ viewport });
      const page = await context.newPage();
      page.setDefaultTimeout(actionTimeout ?? 0);
      await use({ context, page });
      await context.close();
    },
    { scope: 'worker' },
  ],
  context: async ({ kept }, use) => {
    await use(kept.context);
    await kept.context.clearPermissions();
  },
  page: async ({ kept: { context, page }, viewport }, use) => {
    const before = new Set(context.pages());
    await use(page);
    const { origin } = new URL(page.url());
    for (const more of context.pages()) if (!before.has(more)) await more.close();
    page.removeAllListeners('pageerror');
    if (viewport) await page.setViewportSize(viewport);
    // What a page keeps as it goes away may be written after the next one has begun: it keeps nothing.
    await page.evaluate(() => (Storage.prototype.setItem = () => undefined)).catch(() => undefined);
    await page.goto('about:blank');
    const session = await context.newCDPSession(page);
    await session.send('Storage.clearDataForOrigin', { origin, storageTypes: 'all' });
    await session.detach();
  },
});
