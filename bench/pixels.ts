import type { Driver } from 'selenium-webdriver/chrome.js';
import { enterDemo, openBrowser } from '../test/support/browser.ts';
import { Client, dropFolder, startServer, writeTape } from '../test/support/server.ts';
import { putWorkspace, showTabs, TAPE_IDS } from './browser.ts';
import { ownOf, watchMachine } from './machine.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const UPDATES_A_SECOND = 60;
const SECONDS = 30;
const WATCHED = 'GANET.HALM';
/** Prices until one comes again: more than a second of updates. */
const PRICES = 80;
const FROM = '2026-03-02T09:00:00.000Z';

/** A tape whose every trade has another price than the one before, so many a second of each instrument. */
function climbingTape(): string {
  const start = Date.parse(FROM);
  const iso = (at: number): string => new Date(at).toISOString();
  const rows = TAPE_IDS.flatMap((id) => [`${iso(start)},${id},level,bid,40.00,500,`, `${iso(start)},${id},level,ask,42.00,500,`]);
  for (let i = 0; i < UPDATES_A_SECOND * (SECONDS + 60); i++)
    for (const id of TAPE_IDS)
      rows.push(`${iso(start + 1000 + (i * 1000) / UPDATES_A_SECOND)},${id},trade,buy,${(40.1 + (i % PRICES) / 100).toFixed(2)},${100 + (i % 90)},`);
  return writeTape(rows);
}

/** Before the page loads: what the worker passes on of the watched quote, with the time at which it had it. */
const HEAR = `
  window.heard = [];
  const Own = window.SharedWorker;
  window.SharedWorker = class extends Own {
    constructor(...given) {
      super(...given);
      this.port.addEventListener('message', ({ data }) => {
        if (data.kind !== 'topics') return;
        for (const { topic, data: quote } of data.messages)
          if (topic === 'quote:${WATCHED}' && quote && quote.last !== window.heard.at(-1)?.[0]) window.heard.push([quote.last, data.at]);
      });
    }
  };`;

/** In the page: each price that stood in the watched cell, and when the frame that showed it first was painted. */
const SEE = `
  window.seen = [];
  const cell = document.querySelector('tr[data-instrument="${WATCHED}"] [data-column="last"]');
  new MutationObserver(() => {
    const text = cell.textContent;
    const painted = new MessageChannel();
    // What is posted while a frame is made comes once it is painted.
    painted.port1.onmessage = () => window.seen.push([text, performance.timeOrigin + performance.now()]);
    painted.port2.postMessage(null);
  }).observe(cell, { subtree: true, childList: true, characterData: true, attributes: true, attributeFilter: ['data-text'] });`;

type Told = readonly [price: string, at: number];

/** For each quote heard the stretch until it, or a newer one, was painted. Both lists in order of time. */
function stretches(heard: readonly Told[], seen: readonly Told[]): [number, number][] {
  const found: [number, number][] = [];
  let next = 0;
  for (const [text, painted] of seen) {
    let shown = next;
    while (shown < heard.length && (heard[shown]?.[0] !== text || (heard[shown]?.[1] ?? 0) > painted)) shown++;
    // Its quote was shown already, or is of before the watch.
    if (shown === heard.length || (heard[shown]?.[1] ?? 0) > painted) continue;
    for (; next <= shown; next++) found.push([heard[next]?.[1] ?? painted, painted]);
  }
  return found;
}

/** From the worker's having a quote until a frame shows it or a newer one, in the workspace of four charts. */
export async function quoteToPixels(): Promise<Figure[]> {
  const server = await startServer({ KAVIX_MARKET: `tape:${climbingTape()}` });
  const { driver, close } = await openBrowser();
  try {
    const client = await Client.signIn(server.address);
    await client.post('/api/clock', { advanceTo: FROM });
    await putWorkspace(client, TAPE_IDS);
    await (driver as Driver).sendAndGetDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', { source: HEAR });
    await enterDemo(driver, server.address);
    await showTabs(driver, server.address, 'Bench');
    await driver.sleep(1500);
    const machine = watchMachine();
    await driver.executeScript(`window.heard.length = 0; ${SEE}`);
    await driver.sleep(SECONDS * 1000);
    const [heard, seen] = await driver.executeScript<[Told[], Told[]]>('return [window.heard, window.seen]');
    const stalls = await machine.end();
    const { all, own } = ownOf(stretches(heard, seen), stalls);
    if (own.length < (UPDATES_A_SECOND * SECONDS) / 2) throw new Error(`only ${own.length} of ${heard.length} quotes were painted`);
    const most = percentile(own, 0.95);
    return [
      {
        what: `a quote in the worker until it or a newer one is painted, at ${UPDATES_A_SECOND} updates/s, p95`,
        value: ms(most),
        baseline: `${ms(percentile(own, 0.5))} median of ${own.length}; ${ms(percentile(all, 0.95))} p95 with what the machine took`,
        ratio: times(most / percentile(own, 0.5)),
        wanted: '≤ 60 ms',
      },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}
