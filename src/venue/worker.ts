import { readFileSync } from 'node:fs';
import { once } from 'node:events';
import { parentPort, type MessagePort } from 'node:worker_threads';
import type { Instrument } from '../core/instrument/index.ts';
import { parseTape } from '../core/formats/index.ts';
import type { SavedPlace } from '../core/market/index.ts';
import type { AccountTerms } from '../core/portfolio/index.ts';
import { VenueStore } from '../store/venue/venue-store.ts';
import { StoreUnusable } from '../store/database.ts';
import { DemoSource } from './demo-market/demo-source.ts';
import type { DemoWorld } from './demo-market/profile.ts';
import type { HeldAccount, HeldOrder } from './held.ts';
import { Exchange, type SavedExchange } from './exchange.ts';
import type { SavedListing } from './listing.ts';
import type { FromVenue, ToVenue, VenueSettings } from './messages.ts';
import type { MarketSource } from './source.ts';
import { Recorder } from './recorder.ts';
import { TapeFile } from './tape-file.ts';
import { TapeSource } from './tape-source.ts';
import { VenueThread, type SavedClock } from './thread.ts';

/** What the venue's thread begins with: its first message. */
export interface VenueWorkerData {
  readonly settings: VenueSettings;
  /** The file that the market is written down in, as a tape; null for none. */
  readonly record: string | null;
  readonly demo: DemoWorld;
  readonly fixed: readonly Instrument[];
  readonly accounts: readonly AccountTerms[];
  /** What the broker has of accounts that a new world does not begin with empty. */
  readonly held: readonly HeldAccount[];
  /** Where the prices' thread asks. */
  readonly prices: MessagePort;
}

const port = parentPort;
if (!port) throw new Error('the venue runs in a worker thread');
const [{ settings, record, demo, fixed, accounts, held, prices }] = (await once(port, 'message')) as [VenueWorkerData];
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

/** Where the market is written down as it goes; null where nobody asked for that. */
function openTapeFile(): TapeFile | null {
  if (record === null) return null;
  try {
    return new TapeFile(record, ({ message }) => process.emitWarning(`The recording ${record} ended: ${message}. The market goes on.`));
  } catch (error) {
    const there = (error as NodeJS.ErrnoException).code === 'EEXIST';
    throw new TapeUnusable(there ? `${record} is there already; a recording needs a new file.` : `${record} can't be written: ${(error as Error).message}.`);
  }
}

async function begin(): Promise<void> {
  const { source, instruments } = makeSource();
  const tape = openTapeFile();
  const store = await VenueStore.open<SavedClock, HeldOrder, HeldAccount, SavedListing, SavedPlace>(settings.dataFolder);
  const parts = await store.load();
  const saved: SavedExchange | null = parts && { ...parts, time: parts.clock.time, taken: parts.clock.taken };
  const onTape = new Map(fixed.filter(({ id }) => instruments.has(id)).map((instrument) => [instrument.id, instrument]));
  const recorder = tape && new Recorder(onTape, (line) => tape.write(line));
  const issues = settings.market.kind === 'demo' ? demo.issues : [];
  const exchange = new Exchange(instruments, accounts, source, settings.latencyMs, saved, settings.notBefore, issues, recorder);
  if (!parts) exchange.broker.begin(held);
  const thread = new VenueThread(exchange, store, settings, tell, parts?.clock ?? null);
  port?.on('message', (message: ToVenue) => {
    if (message.call === 'stop') tape?.flush();
    thread.receive(message);
  });
  prices.on('message', (message: ToVenue) => thread.receive(message, (answer) => prices.postMessage(answer)));
  await thread.start();
  tell({ kind: 'ready', instruments: [...instruments.values()], accounts: [...accounts], clock: thread.clock(), link: thread.link });
}

begin().catch((error: Error) => {
  const known = error instanceof StoreUnusable || error instanceof TapeUnusable;
  tell({ kind: 'unable', message: known ? error.message : `The venue could not start: ${error.stack ?? error.message}` });
});
