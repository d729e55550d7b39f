import type { RequestListener, Server } from 'node:http';
import { destination, pino } from 'pino';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { ACCOUNTS, TAPE_ACCOUNTS, USERS } from '../../demo/accounts.ts';
import { demoWorld } from '../../demo/universe.ts';
import { Access } from '../access/access.ts';
import { Consents } from '../desk/consents.ts';
import type { ExitPlanText } from '../core/exits/index.ts';
import { Baskets } from '../desk/baskets/baskets.ts';
import { Desk } from '../desk/desk.ts';
import { Finding } from '../desk/finding/finding.ts';
import { MOST_RUNS } from '../desk/finding/scans.ts';
import { readWaiting } from '../desk/finding/read-waiting.ts';
import { writePast } from '../desk/journal.ts';
import { LogBroken } from '../desk/ledger.ts';
import { Past } from '../desk/review/past.ts';
import { Review } from '../desk/review/review.ts';
import { setRunning, type Running } from '../desk/running.ts';
import { StoreUnusable, openDatabase } from '../store/database.ts';
import { AccessStore } from '../store/desk/access-store.ts';
import { DeskStore } from '../store/desk/desk-store.ts';
import { BasketStore } from '../store/desk/basket-store.ts';
import { FindingStore } from '../store/desk/finding-store.ts';
import { PastStore } from '../store/desk/past-store.ts';
import { ReviewStore } from '../store/desk/review-store.ts';
import { SavedStore } from '../store/desk/saved-store.ts';
import { DESK_MIGRATIONS, TABLE_MIGRATIONS } from '../store/desk/migrations.ts';
import { lockFolder } from './folder-lock.ts';
import { PortUnusable, listen, makeServer } from './server.ts';
import { SettingUnusable, readSettings, type Settings } from './settings.ts';
import type { OrderState } from '../core/orders/index.ts';
import { demoPast } from './past/index.ts';
import type { Threads } from './threads.ts';
import { PricesLink } from './prices-link.ts';
import { VenueUnable, startVenue } from './venue-link.ts';
import { FIRST_PATHS, OTHER_PATHS, warm } from './warm.ts';

const STOP_WITHIN_MS = 4500;
/** What is not asked for first is loaded a moment after the ready line, and then soon: the first orders come before it, or after. */
const REST_AFTER_MS = 250;
const log = pino({ level: process.env['KAVIX_LOG'] || 'warn' }, destination({ dest: 2, sync: true }));

/** Builds and wires everything, then serves. `pages` answer what is asked; they load while the rest begins. */
export async function start(pages: Promise<RequestListener>, root: string, threads: Threads): Promise<void> {
  try {
    await serve(pages, readSettings(process.env, root), threads);
  } catch (error) {
    const known = [SettingUnusable, StoreUnusable, VenueUnable, PortUnusable, LogBroken].some((kind) => error instanceof kind);
    process.stderr.write(`${known ? (error as Error).message : `Kavix could not start: ${(error as Error).stack ?? String(error)}`}\n`);
    process.exit(1);
  }
}

async function serve(pages: Promise<RequestListener>, settings: Settings, threads: Threads): Promise<void> {
  const unlock = lockFolder(settings.dataFolder);
  process.on('exit', unlock);
  const [world, { server, address }] = await Promise.all([openWorld(settings, threads), openDoor(pages, settings)]);

  const stop = async (): Promise<void> => {
    setTimeout(() => process.exit(0), STOP_WITHIN_MS).unref();
    setRunning(null);
    server.close();
    server.closeAllConnections();
    await world.close();
    process.exit(0);
  };
  process.once('SIGINT', () => void stop());
  process.once('SIGTERM', () => void stop());

  setRunning(world.running);
  process.stdout.write(`Kavix is ready at ${address}\n`);
  await new Promise((resolve) => setTimeout(resolve, REST_AFTER_MS));
  await loadAhead(address, OTHER_PATHS);
}

const loadAhead = (address: string, paths: readonly string[]): Promise<void> =>
  warm(address, paths).catch((error: Error) => log.info(`not all was loaded ahead: ${error.message}`));

/** The HTTP server, with what a first order needs loaded. */
async function openDoor(pages: Promise<RequestListener>, { host, port }: Settings): Promise<{ server: Server; address: string }> {
  const server = makeServer(await pages);
  const address = `http://${host}:${await listen(server, host, port)}`;
  await loadAhead(address, FIRST_PATHS);
  return { server, address };
}

/** Stores, venue, prices and desk, and all that stands on them. */
async function openWorld(settings: Settings, threads: Threads): Promise<{ running: Running; close(): Promise<void> }> {
  const opening = Promise.all([
    openDatabase(settings.dataFolder, 'desk.sqlite', DESK_MIGRATIONS),
    openDatabase(settings.dataFolder, 'tables.sqlite', TABLE_MIGRATIONS, 'NORMAL'),
  ]);
  const demo = demoWorld(settings.seed);
  const [database, tables] = await opening;
  const store = new DeskStore<OrderState>(database, tables);
  const [newest] = await store.readAfter((await store.last()).seq - 1, 1);
  const past = settings.past && !newest ? demoPast(demo, settings.seed, ACCOUNTS, new Set(FIXED_INSTRUMENTS.map(({ id }) => id)), USERS[0].name) : null;
  const onUnable = (message: string): void => {
    log.fatal(message);
    process.exit(1);
  };
  const { link: venue, sight } = await startVenue(
    threads.venue,
    {
      settings: { ...settings, notBefore: newest?.time ?? 0 },
      record: settings.record,
      demo,
      fixed: FIXED_INSTRUMENTS,
      accounts: settings.market.kind === 'tape' ? TAPE_ACCOUNTS : ACCOUNTS,
      held: past?.held ?? [],
    },
    onUnable,
  );
  // The broker has it by now: where this is not reached, the next start makes the same past again.
  if (past) await writePast(store, past.entries);
  const prices = new PricesLink(threads.prices, venue.prices.instruments, sight, onUnable);
  const saved = new SavedStore(database);
  const consents = new Consents(saved);
  await consents.load(new Set(ACCOUNTS.map(({ user }) => user)));
  const desk = new Desk(
    { broker: venue.broker, prices: venue.prices, demo: venue.demo, store },
    { waitsForVenue: settings.clock === 'manual' && settings.latencyMs === 0, consents: (user) => consents.of(user).given },
  );
  const access = new Access(new AccessStore(database));
  await Promise.all([desk.open(), ...USERS.map(({ name, password }) => access.addUser(name, password))]);
  const finding = new Finding({ desk, prices, store: new FindingStore(database, MOST_RUNS), saved });
  finding.waiting.readBy((order, clientOrderId) => readWaiting(desk, saved, order, clientOrderId));
  await finding.open();
  const planOf = (user: string) => async (name: string) => ((await saved.get(user, 'exit-plan', name))?.document as ExitPlanText | undefined) ?? null;
  const baskets = new Baskets({ desk, store: new BasketStore(database), planOf });
  await baskets.open();
  const activity = new Past(desk, new PastStore(tables));
  const review = new Review(desk, activity, new ReviewStore(database));
  review.open();

  const close = async (): Promise<void> => {
    await finding.settled();
    await baskets.settled();
    review.stop();
    await review.settled();
    await activity.close().catch((error: Error) => log.info(`what the accounts have been through is gone through again at the next start: ${error.message}`));
    await desk.close();
    await prices.stop();
    await venue.stop();
    await Promise.all([database.close(), tables.close()]);
  };
  return { running: { desk, access, saved, consents, finding, baskets, review, past: activity }, close };
}
