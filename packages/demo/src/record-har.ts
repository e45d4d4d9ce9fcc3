import { fileURLToPath } from 'node:url';
import { chromium } from 'playwright-core';
import { createBoardServer } from './harbour-board/board-server.js';
import { createTideOffice } from './world/tide-office.js';

/** Records files/tide-office.har anew: the harbour board's page in headless Chromium, asking the real tide office. */
const target = process.argv[2] ?? fileURLToPath(new URL('../files/tide-office.har', import.meta.url));
const office = createTideOffice();
const board = createBoardServer();
const tides = await office.listen({ host: '127.0.0.1', port: 4692 });
const page = await board.listen({ host: '127.0.0.1', port: 4690 });
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-quic', '--disable-background-networking'],
});
const context = await browser.newContext({ recordHar: { path: target, content: 'embed' } });
const tab = await context.newPage();
await tab.goto(`${page}/?tides=${tides}&days=2026-03-02,2026-03-03`);
await tab.waitForSelector('text=all asked');
await context.close();
await browser.close();
await Promise.all([office.close(), board.close()]);
console.log(`recorded ${target}`);
