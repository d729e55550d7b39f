import { createServer } from 'node:http';
import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';
import { Builder, By, logging, type WebDriver } from 'selenium-webdriver';
import { Options, ServiceBuilder, type Driver } from 'selenium-webdriver/chrome.js';
import { mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { PREPARED } from '../src/views/workspace/prepared.ts';
import { enterDemo, openBrowser } from '../test/support/browser.ts';
import { freePort } from './free-port.ts';
import { ownOf, watchMachine } from './machine.ts';
import { Client, dropFolder, startServer, writeTape } from '../test/support/server.ts';
import { ms, percentile, times, type Figure } from './table.ts';

const OPENED = 9;
const BUSY_SECONDS = 60;
const QUOTES_A_SECOND = 2000;
const PRINTS_A_SECOND = 200;
const LIST_ROWS = 50;

/** The chart room's workspace under a name of its own, its list of fifty. */
export async function putWorkspace(client: Client, ids: readonly string[]): Promise<void> {
  const rows = Array.from({ length: LIST_ROWS }, (_, i) => ({ instrument: ids[i % ids.length] ?? '' }));
  await client.call('PUT', '/api/watchlists/Fifty', { rows });
  const document = PREPARED['Four charts']?.();
  if (!document) throw new Error('no such workspace');
  const panes = Object.fromEntries(
    Object.entries(document.panes).map(([id, pane]) => [
      id,
      pane.kind === 'Watchlist' ? { ...pane, settings: { list: 'Fifty' } } : pane.kind === 'News' ? { ...pane, settings: { all: true } } : pane,
    ]),
  );
  const put = await client.call('PUT', '/api/workspaces/Bench', { ...document, panes });
  if (put.status >= 300) throw new Error(JSON.stringify(put.body));
  await client.call('PUT', '/api/workspaces/Empty', { format: 1, panes: {}, letters: {}, layout: null, direction: 'row', windows: [] });
}

/** In the page: milliseconds from the click on a tab until everything in it is drawn. */
const OPEN = `
  const done = arguments[arguments.length - 1];
  const tab = (name) => [...document.querySelectorAll('nav[aria-label="Workspaces"] button')].find((one) => one.textContent === name);
  const drawn = () =>
    [...document.querySelectorAll('[data-testid="data-line"]')].filter((one) => one.textContent.includes('C ')).length === 4 &&
    document.querySelector('.ladder-row .spine.best') && document.querySelector('.depth [data-column="bid quantity"]')?.textContent &&
    document.querySelector('[aria-label^="Prints of"] [title^="seq"]') && document.querySelector('[aria-label="Headlines"] li') &&
    document.querySelectorAll('tr[data-instrument]').length >= arguments[0] &&
    [...document.querySelectorAll('tr[data-instrument]')].every((row) => row.offsetTop >= row.closest('.scroll').clientHeight || row.querySelector('[data-column="last"][data-text]'));
  const from = performance.now();
  tab('Bench').click();
  const look = () => (drawn() ? requestAnimationFrame(() => done(performance.now() - from)) : performance.now() - from > 20000 ? done(-1) : requestAnimationFrame(look));
  requestAnimationFrame(look);`;

export async function showTabs(driver: WebDriver, address: string, current: string): Promise<void> {
  await driver.executeScript(`localStorage.setItem('kavix.tabs', JSON.stringify({ open: ['Empty', 'Bench'], current: arguments[0] }))`, current);
  await driver.get(`${address}/`);
  await driver.sleep(1500);
}

export async function openWorkspace(): Promise<Figure[]> {
  const server = await startServer();
  const { driver, close } = await openBrowser();
  try {
    const client = await Client.signIn(server.address);
    await client.post('/api/clock', { advanceBy: 3 * 3_600_000 });
    const { items } = (await client.get(`/api/instruments?venue=HALM&kind=share&limit=${LIST_ROWS}`)).body as { items: { id: string }[] };
    await putWorkspace(client, items.map((item) => item.id)); // prettier-ignore
    await enterDemo(driver, server.address);
    await showTabs(driver, server.address, 'Empty');
    const taken: number[] = [];
    for (let i = 0; i < OPENED; i++) {
      taken.push(await driver.executeAsyncScript<number>(OPEN, LIST_ROWS));
      await driver.findElement(By.xpath('//nav[@aria-label="Workspaces"]//button[.="Empty"]')).click();
      await driver.sleep(1500);
    }
    if (taken.some((one) => one < 0)) throw new Error(`the workspace was not drawn: ${taken.join(' ')}`);
    return [
      {
        what: 'opening a workspace of 4 charts, ladder, depth, prints, list of 50, news: median',
        value: ms(percentile(taken, 0.5)),
        baseline: `${ms(taken[0] as number)} the first time`,
        ratio: times(percentile(taken, 0.5) / (taken[0] as number)),
        wanted: '≤ 800 ms',
      },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}

export const TAPE_IDS = ['GANET.HALM', 'BRINE.HALM', 'HALMF.HALM', 'GANET.QUAY'];

const BUSY_FROM = '2026-03-06T09:00:00.000Z';
const HISTORY_DAYS = 4;
const SESSION_MINUTES = 510;
const DAY_MS = 86_400_000;
const MINUTE_MS = 60_000;

/** A tape with so many quotes and prints a second, half of them of the instrument that everything shows; four days of minutes before. */
function busyTape(): string {
  const start = Date.parse(BUSY_FROM);
  const rows: string[] = [];
  const iso = (at: number): string => new Date(at).toISOString();
  for (let day = HISTORY_DAYS; day > 0; day--)
    for (let minute = 0; minute < SESSION_MINUTES; minute++) {
      const at = iso(start - day * DAY_MS + minute * MINUTE_MS);
      const place = day * SESSION_MINUTES - minute;
      const price = 41 + Math.sin(place / 40) + ((place * 7) % 11) / 50;
      for (const id of TAPE_IDS) rows.push(`${at},${id},trade,buy,${price.toFixed(2)},${100 + ((place * 13) % 400)},`);
    }
  for (const id of TAPE_IDS) {
    rows.push(`${iso(start)},${id},state,,,,open`);
    for (let i = 0; i < 10; i++)
      rows.push(`${iso(start)},${id},level,bid,${(41 - i / 100).toFixed(2)},500,`, `${iso(start)},${id},level,ask,${(41.01 + i / 100).toFixed(2)},500,`);
  }
  const every = QUOTES_A_SECOND / PRINTS_A_SECOND;
  for (let i = 0; i < QUOTES_A_SECOND * (BUSY_SECONDS + 40); i++) {
    const id = TAPE_IDS[i % 2 === 0 ? 0 : 1 + ((i >> 1) % 3)] ?? '';
    const at = iso(start + 1000 + (i * 1000) / QUOTES_A_SECOND);
    const away = (i * 7) % 10;
    rows.push(`${at},${id},level,${i % 4 < 2 ? `bid,${(41 - away / 100).toFixed(2)}` : `ask,${(41.01 + away / 100).toFixed(2)}`},${100 + (i % 90) * 10},`);
    if (i % every === 0) rows.push(`${at},${id},trade,${i % 20 === 0 ? 'buy,41.01' : 'sell,41.00'},${10 + (i % 50)},`);
  }
  return writeTape(rows);
}

const WATCH_FRAMES = `
  window.benchFrames = { long: [], frames: [], from: performance.timeOrigin + performance.now() };
  const stretch = (from, to) => [performance.timeOrigin + from, performance.timeOrigin + to];
  new PerformanceObserver((list) => list.getEntries().forEach((one) => window.benchFrames.long.push(stretch(one.startTime, one.startTime + one.duration)))).observe({ type: 'longtask' });
  let before = performance.now();
  const next = (now) => { window.benchFrames.frames.push(stretch(before, now)); before = now; requestAnimationFrame(next); };
  requestAnimationFrame((now) => { before = now; requestAnimationFrame(next); });`;

/** Stretches of the page's time: tasks over 50 ms, and from frame to frame. */
interface Frames {
  readonly from: number;
  readonly long: readonly (readonly [from: number, to: number])[];
  readonly frames: readonly (readonly [from: number, to: number])[];
}

async function metric(driver: WebDriver, name: string): Promise<number> {
  const found = (await (driver as Driver).sendAndGetDevToolsCommand('Performance.getMetrics', {})) as unknown as { metrics: { name: string; value: number }[] };
  return found.metrics.find((one) => one.name === name)?.value ?? NaN;
}

const lateShare = (frames: readonly number[]): number => (frames.filter((one) => one > 25).length / frames.length) * 100;

export async function busyWorkspace(): Promise<Figure[]> {
  const server = await startServer({ KAVIX_MARKET: `tape:${busyTape()}` });
  const { driver, close } = await openBrowser();
  try {
    const client = await Client.signIn(server.address);
    await client.post('/api/clock', { advanceTo: BUSY_FROM });
    await putWorkspace(client, TAPE_IDS);
    await (driver as Driver).sendDevToolsCommand('Performance.enable', {});
    await driver.get('about:blank');
    const machine = watchMachine();
    await driver.executeScript(WATCH_FRAMES);
    await driver.sleep(10_000);
    const blank = await driver.executeScript<Frames>('return window.benchFrames');
    await enterDemo(driver, server.address);
    await showTabs(driver, server.address, 'Bench');
    await driver.executeScript(WATCH_FRAMES);
    const before = await metric(driver, 'ScriptDuration');
    await driver.sleep(BUSY_SECONDS * 1000);
    const after = await metric(driver, 'ScriptDuration');
    const { from, long, frames } = await driver.executeScript<Frames>('return window.benchFrames');
    const stalls = await machine.end();
    // What the machine took for itself is nobody's.
    const tasks = ownOf(long.filter(([began]) => began > from + 1000), stalls); // prettier-ignore
    const late = tasks.own.filter((took) => took > 50);
    const [own, empty] = [ownOf(frames, stalls), ownOf(blank.frames, stalls)];
    const share = ((after - before) / BUSY_SECONDS) * 100;
    return [
      {
        what: `the same at 2,000 quotes/s and 200 prints/s: script of one core`,
        value: `${share.toFixed(1)} %`,
        baseline: '20 %',
        ratio: times(share / 20),
        wanted: '≤ 20 %',
      },
      {
        what: 'the same: tasks over 50 ms after the first second',
        value: String(late.length),
        baseline: `longest ${ms(Math.max(0, ...tasks.own))}; ${tasks.all.length} with what the machine took`,
        ratio: '',
        wanted: '0',
      },
      {
        what: 'the same: frame intervals over 25 ms',
        value: `${lateShare(own.own).toFixed(2)} %`,
        baseline: `${lateShare(empty.own).toFixed(2)} % on an empty page; ${lateShare(own.all).toFixed(2)} % with what the machine took`,
        ratio: '',
        wanted: '≤ 1 %',
      },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}

/** A browser whose trace of the main thread can be read. */
async function openTraced(): Promise<{ driver: WebDriver; close: () => Promise<void> }> {
  const profile = mkdtempSync(join(tmpdir(), 'kavix-trace-'));
  const options = new Options();
  options.addArguments('--headless=new', '--no-sandbox', '--disable-gpu', '--no-first-run', `--user-data-dir=${profile}`, '--window-size=1280,800');
  options.setBinaryPath('/usr/bin/chromium');
  // The typings ask for preferences that the driver has since dropped.
  options.setPerfLoggingPrefs({ traceCategories: 'devtools.timeline' } as Parameters<Options['setPerfLoggingPrefs']>[0]);
  const wanted = new logging.Preferences();
  wanted.setLevel(logging.Type.PERFORMANCE, logging.Level.ALL);
  options.setLoggingPrefs(wanted);
  const driver = await new Builder().forBrowser('chrome').setChromeOptions(options).setChromeService(new ServiceBuilder('/usr/bin/chromedriver')).build();
  return {
    driver,
    close: async () => {
      await driver.quit().catch(() => undefined);
      rmSync(profile, { recursive: true, force: true });
    },
  };
}

const WORK = new Set(['FireAnimationFrame', 'UpdateLayoutTree', 'Layout', 'PrePaint', 'Paint', 'Layerize', 'Commit', 'CompositeLayers']);

interface TraceEvent {
  readonly name: string;
  readonly ph: string;
  readonly ts: number;
  readonly dur?: number;
  readonly tid: number;
}

/** Milliseconds of work in each frame: script, style, layout and paint from one animation frame to the next. */
function workPerFrame(events: readonly TraceEvent[], work: ReadonlySet<string> = WORK): number[] {
  const thread = events.find((event) => event.name === 'FireAnimationFrame')?.tid;
  const own = events.filter((event) => event.tid === thread && event.ph === 'X' && work.has(event.name)).sort((a, b) => a.ts - b.ts);
  const frames: number[] = [];
  let until = 0;
  for (const event of own) {
    if (event.name === 'FireAnimationFrame') frames.push(0);
    // What is done within another counts once.
    const took = Math.max(0, event.ts + (event.dur ?? 0) - Math.max(event.ts, until));
    until = Math.max(until, event.ts + (event.dur ?? 0));
    if (frames.length > 0) frames[frames.length - 1] = (frames[frames.length - 1] as number) + took / 1000;
  }
  return frames.slice(5);
}

/** Serves a page of its own from a bundle of one file, runs it until `done` of its window is true, and reads its frames. */
async function tracedPage(file: string, done: string, read: (events: readonly TraceEvent[]) => number[]): Promise<number[]> {
  const { outputFiles } = await build({
    entryPoints: [file],
    bundle: true,
    minify: true,
    format: 'esm',
    write: false,
    target: 'es2022',
    jsx: 'automatic',
    define: { 'process.env.NODE_ENV': '"production"', 'import.meta.env.DEV': 'false' },
  });
  const script = outputFiles[0]?.text ?? '';
  // Looks as it does in Kavix: style and layout are part of the work.
  const built = resolve(import.meta.dirname, '../dist/client/_astro');
  const styles = readdirSync(built).filter((name) => name.endsWith('.css'));
  const style = styles.map((name) => readFileSync(join(built, name), 'utf8')).join('\n');
  const port = await freePort();
  const server = createServer((request, response) => {
    const page = request.url === '/page.js';
    response
      .writeHead(200, { 'content-type': page ? 'text/javascript' : 'text/html' })
      .end(page ? script : `<!doctype html><style>${style}</style><body><script type="module" src="/page.js"></script>`);
  }).listen(port, '127.0.0.1');
  const { driver, close } = await openTraced();
  try {
    await driver.get(`http://127.0.0.1:${port}/`);
    await driver.wait(async () => driver.executeScript(`return window.${done} === true`), 120_000);
    const entries = await driver.manage().logs().get(logging.Type.PERFORMANCE);
    const events = entries.flatMap((entry) => {
      const { message } = JSON.parse(entry.message) as { message: { method: string; params: TraceEvent } };
      return message.method === 'Tracing.dataCollected' ? [message.params] : [];
    });
    const frames = read(events);
    if (frames.length < 100) throw new Error(`the trace has ${frames.length} frames only`);
    return frames;
  } finally {
    await close();
    server.close();
  }
}

export async function panAndZoom(): Promise<Figure[]> {
  const frames = await tracedPage('bench/pan-page.ts', 'panned', workPerFrame);
  return [
    {
      what: 'pan and zoom over 100,000 bars with five studies, work per frame, p95',
      value: ms(percentile(frames, 0.95)),
      baseline: `${ms(percentile(frames, 0.5))} median of ${frames.length} frames`,
      ratio: times(percentile(frames, 0.95) / percentile(frames, 0.5)),
      wanted: '≤ 10 ms',
    },
  ];
}

/** All that the thread does from one animation frame to the next, whoever asked for it. */
const tasksPerFrame = (events: readonly TraceEvent[]): number[] =>
  workPerFrame(events, new Set(['FireAnimationFrame', 'FunctionCall', 'RunMicrotasks', 'TimerFire', 'HandlePostMessage', ...WORK]));

export async function liveChain(): Promise<Figure[]> {
  const frames = await tracedPage('bench/chain-page.tsx', 'chainDone', tasksPerFrame);
  return [
    {
      what: 'a chain of 60 strikes at 200 quotes/s, work per frame, p95',
      value: ms(percentile(frames, 0.95)),
      baseline: `${ms(percentile(frames, 0.5))} median of ${frames.length} frames`,
      ratio: times(percentile(frames, 0.95) / 4),
      wanted: '≤ 4 ms',
    },
  ];
}

const HOURS = 8;
const STEP_MS = 2000;

/** Eight hours of market in one window: what the heap has grown by, after it was collected. */
export async function longDay(): Promise<Figure[]> {
  const server = await startServer({ KAVIX_CLOCK: 'manual' });
  const { driver, close } = await openBrowser();
  try {
    const client = await Client.signIn(server.address);
    const { items } = (await client.get(`/api/instruments?venue=HALM&kind=share&limit=${LIST_ROWS}`)).body as { items: { id: string }[] };
    await putWorkspace(client, items.map((item) => item.id)); // prettier-ignore
    await (driver as Driver).sendDevToolsCommand('Performance.enable', {});
    await enterDemo(driver, server.address);
    await showTabs(driver, server.address, 'Bench');
    const heap = async (): Promise<number> => {
      for (let i = 0; i < 3; i++) await (driver as Driver).sendDevToolsCommand('HeapProfiler.collectGarbage', {});
      return metric(driver, 'JSHeapUsedSize');
    };
    const run = async (marketMs: number): Promise<void> => {
      for (let passed = 0; passed < marketMs; passed += STEP_MS) await client.post('/api/clock', { advanceBy: STEP_MS });
    };
    await run(10 * 60_000);
    await driver.sleep(2000);
    const first = await heap();
    const from = performance.now();
    await run(HOURS * 3_600_000);
    const took = (performance.now() - from) / 1000;
    await driver.sleep(2000);
    const last = await heap();
    const mb = (bytes: number): string => `${(bytes / 2 ** 20).toFixed(1)} MB`;
    return [
      {
        what: `heap grown over ${HOURS} hours of market in one window (at ${((HOURS * 3600) / took).toFixed(0)}×)`,
        value: mb(last - first),
        baseline: `${mb(first)} after 10 minutes`,
        ratio: times(last / first),
        wanted: '≤ 10 MB',
      },
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}

/** How much script a window fetches until its first workspace stands; what floats over it comes once a hand moves, other pages and rare panes when they are opened. */
export async function pageWeight(): Promise<Figure[]> {
  const server = await startServer();
  const { driver, close } = await openBrowser();
  try {
    await enterDemo(driver, server.address);
    // The day sheet that the day began with was left by a key: a window that nobody touched yet.
    await driver.navigate().refresh();
    const script = `return [...new Set(performance.getEntriesByType('resource').map(({ name }) => new URL(name).pathname))].filter((path) => path.endsWith('.js'))`;
    const scripts = (): Promise<string[]> => driver.executeScript(script);
    let fetched: string[] = [];
    // All is there once nothing more comes for a while.
    for (let next = await scripts(); next.length > fetched.length; next = await scripts()) {
      fetched = next;
      await driver.sleep(2000);
    }
    const weigh = (paths: readonly string[]): { zipped: number; whole: number } => {
      const raw = paths.map((path) => readFileSync(join(resolve(import.meta.dirname, '../dist/client'), path)));
      return { zipped: raw.reduce((sum, bytes) => sum + gzipSync(bytes).length, 0), whole: raw.reduce((sum, bytes) => sum + bytes.length, 0) };
    };
    const stands = weigh(fetched);
    await driver.actions({ async: true }).move({ x: 640, y: 300 }).move({ x: 660, y: 320 }).perform();
    await driver.sleep(2000);
    const atHand = weigh((await scripts()).filter((path) => !fetched.includes(path)));
    const figure = (what: string, { zipped, whole }: typeof stands, wanted: string): Figure => ({
      what,
      value: `${Math.round(zipped / 1000)} kB`,
      baseline: `${Math.round(whole / 1000)} kB as it is`,
      ratio: times(zipped / whole),
      wanted,
    });
    return [
      figure('script sent until the first workspace stands, gzip', stands, '≤ 380 kB'),
      figure('script sent once a hand moves: menus, bar, slip, order layer', atHand, ''),
    ];
  } finally {
    await close();
    await server.stop();
    dropFolder(server.folder);
  }
}
