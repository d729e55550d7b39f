import { readFileSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import type { Instrument } from '../core/instrument/index.ts';
import { parseTape } from '../core/formats/index.ts';
import type { AccountTerms } from '../core/portfolio/index.ts';
import { VenueStore } from '../store/venue/venue-store.ts';
import { StoreUnusable } from '../store/database.ts';
import { DemoSource } from './demo-market/demo-source.ts';
import type { DemoWorld } from './demo-market/profile.ts';
import { Exchange, type SavedExchange } from './exchange.ts';
import type { FromVenue, LinkState, ToVenue, VenueSettings } from './messages.ts';
import type { MarketSource } from './source.ts';
import { TapeSource } from './tape-source.ts';
import { VenueThread, type SavedClock } from './thread.ts';

/** What the venue's thread is started with. */
export interface VenueWorkerData {
  readonly settings: VenueSettings;
  readonly demo: DemoWorld;
  readonly fixed: readonly Instrument[];
  readonly accounts: readonly AccountTerms[];
}

const { settings, demo, fixed, accounts } = workerData as VenueWorkerData;
const port = parentPort;
if (!port) throw new Error('the venue runs in a worker thread');
const tell = (message: FromVenue): void => port.postMessage(message);

class TapeUnusable extends Error {}

function makeSource(): { source: MarketSource; instruments: ReadonlyMap<string, Instrument> } {
  if (settings.market.kind === 'demo') {
    const instruments = new Map(demo.profiles.map((profile) => [profile.instrument.id, profile.instrument]));
    return { source: new DemoSource(demo, settings.seed), instruments };
  }
  const instruments = new Map(fixed.map((instrument) => [instrument.id, instrument]));
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(readFileSync(settings.market.file));
  } catch (error) {
    throw new TapeUnusable(`The tape ${settings.market.file} can't be read: ${(error as Error).message}.`);
  }
  const rows = parseTape(text, instruments);
  if (!rows.ok)
    throw new TapeUnusable(
      `The tape ${settings.market.file} is wrong at line ${rows.refusal.line}, column ${rows.refusal.column}: ${rows.refusal.message}. Nothing of it was kept.`,
    );
  return { source: new TapeSource(rows.value, instruments), instruments };
}

async function begin(): Promise<void> {
  const { source, instruments } = makeSource();
  const store = await VenueStore.open(settings.dataFolder);
  const parts = await store.load();
  const clock = parts?.clock as SavedClock | undefined;
  const saved: SavedExchange | null =
    parts && clock
      ? { time: clock.time, taken: clock.taken, seq: clock.seq, orders: parts.orders as never, books: parts.books, listings: parts.listings as never }
      : null;
  const exchange = new Exchange(instruments, accounts, source, settings.latencyMs, saved, settings.notBefore);
  const thread = new VenueThread(exchange, store, settings, tell, clock ?? null);
  port?.on('message', (message: ToVenue) => thread.receive(message));
  await thread.start();
  const link: LinkState = thread.link;
  tell({ kind: 'ready', instruments: [...instruments.values()], accounts: [...accounts], clock: thread.clock(), link });
}

begin().catch((error: Error) => {
  const known = error instanceof StoreUnusable || error instanceof TapeUnusable;
  tell({ kind: 'unable', message: known ? error.message : `The venue could not start: ${error.stack ?? error.message}` });
});
