import { once } from 'node:events';
import { parentPort, type MessagePort } from 'node:worker_threads';
import type { Instrument } from '../core/instrument/index.ts';
import type { FromVenue } from '../venue/messages.ts';
import { Finder } from './finder.ts';
import type { FromPrices, ToPrices } from './messages.ts';
import { SightLink } from './sight-link.ts';

/** What the prices' thread begins with: its first message. */
export interface PricesWorkerData {
  readonly instruments: readonly Instrument[];
  /** The way to the venue. */
  readonly venue: MessagePort;
}

const port = parentPort;
if (!port) throw new Error('the prices run in a worker thread');
const [{ instruments, venue }] = (await once(port, 'message')) as [PricesWorkerData];

const sight = new SightLink((message) => venue.postMessage(message));
venue.on('message', (message: FromVenue) => sight.receive(message));
const finder = new Finder(instruments, sight, (run, progress) => port.postMessage({ kind: 'progress', run, progress } satisfies FromPrices));
port.on('message', ({ call, id, ask }: ToPrices) => {
  finder.answer(call, ask).then(
    (answer) => port.postMessage({ kind: 'answer', id, answer } satisfies FromPrices),
    (error: Error) => port.postMessage({ kind: 'failed', id, message: error.stack ?? String(error) } satisfies FromPrices),
  );
});
