import { type Browser, chromium, type Page } from 'playwright-core';
import { afterEach, expect } from 'vitest';

export interface TestBrowser {
  /** A page that has not seen the service before; what goes wrong in it is gathered in `troubles`. */
  readonly open: (url: string) => Promise<{ page: Page; troubles: string[] }>;
  readonly close: () => Promise<void>;
}

export async function startBrowser(): Promise<TestBrowser> {
  const browser: Browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
  return {
    open: async (url) => {
      const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
      const page = await context.newPage();
      const troubles: string[] = [];
      page.on('pageerror', (error) => troubles.push(error.message));
      page.on('console', (message) => {
        // A refused save is an answer the page shows, not trouble of the page.
        if (message.type() === 'error' && !/status of (400|422)/.test(message.text())) troubles.push(message.text());
      });
      await page.goto(url);
      return { page, troubles };
    },
    close: () => browser.close(),
  };
}

/**
 * Opens pages for the tests of a file, one for each test, by path or whole address. A page that throws or breaks its own
 * policy fails its test, whatever that did.
 */
export function pagesOf(address: () => string, browser: () => TestBrowser): (path: string) => Promise<Page> {
  let opened: { page: Page; troubles: string[] } | null = null;
  afterEach(async () => {
    expect(opened?.troubles ?? []).toEqual([]);
    await opened?.page.context().close();
    opened = null;
  });
  return async (path) => {
    opened = await browser().open(new URL(path, address()).href);
    return opened.page;
  };
}
