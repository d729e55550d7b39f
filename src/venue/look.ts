import { QuoteTable, type BarBlock, type BlockSource } from '../core/scan/index.ts';
import type { Exchange } from './exchange.ts';
import type { LookRequest, MarketLook } from './messages.ts';

const FIRST_NUMBERS = 4096;
const MOST_NUMBERS = 1 << 18;

/** Blocks one behind the other in pieces of shared memory, each larger than the one before: what is sent of them is where they lie. */
function sharedBlocks(): BlockSource {
  let piece: BarBlock = new Float64Array(0);
  let used = 0;
  let next = FIRST_NUMBERS;
  return (numbers): BarBlock => {
    if (used + numbers > piece.length) {
      piece = new Float64Array(new SharedArrayBuffer(Math.max(next, numbers) * Float64Array.BYTES_PER_ELEMENT));
      next = Math.min(MOST_NUMBERS, next * 4);
      used = 0;
    }
    used += numbers;
    return piece.subarray(used - numbers, used);
  };
}

/** Looks at instruments as they are now: their figures go into the table that was given, the rest is told. */
export function lookAt(exchange: Exchange, { instruments, places, table: memory, ...how }: LookRequest): MarketLook {
  const table = QuoteTable.over(memory);
  const blocks = sharedBlocks();
  const seen = instruments.flatMap((id, k) => {
    const instrument = exchange.instruments.get(id);
    const look = exchange.look(id, how, blocks);
    const place = places[k];
    if (!instrument || !look || place === undefined) return [];
    table.put(place, instrument, look);
    return [{ place, settlements: look.settlements, bars: look.bars }];
  });
  return { time: exchange.time, number: exchange.number, seen };
}
