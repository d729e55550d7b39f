import { expect } from 'chai';
import fc from 'fast-check';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { addTicks, asPrice, asQuantity, formatPrice, formatQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { readOrderPhrase } from '../../src/core/language/index.ts';
import type { Quote } from '../../src/core/market/index.ts';
import { ghostAt, ghostRequest, type MarketView } from '../../src/core/orders/index.ts';
import { phraseScene } from '../support/phrase-scene.ts';

const NOW = Date.parse('2026-03-02T10:00:00.000Z');
const RUNS = Number(process.env['KAVIX_RUNS'] ?? 1500);
const INSTRUMENTS = ['GANET.HALM', 'KELPA.HALM', 'HALM40M-JUN26.HALM', 'CARB-EUR.VSPR'].map(
  (id) => FIXED_INSTRUMENTS.find((one) => one.id === id) as Instrument,
);

/** An aim at a random book: the price is so many ticks from the best bid. */
const aim = fc.record({
  which: fc.integer({ min: 0, max: INSTRUMENTS.length - 1 }),
  middle: fc.integer({ min: 200, max: 90_000 }),
  spread: fc.integer({ min: 1, max: 9 }),
  side: fc.constantFrom('buy' as const, 'sell' as const),
  away: fc.integer({ min: -40, max: 40 }),
  size: fc.integer({ min: 1, max: 5000 }),
  want: fc.constantFrom('limit' as const, 'stop' as const, 'either' as const),
  said: fc.constantFrom('price' as const, 'bid' as const, 'ask' as const),
});

describe('the same aim', () => {
  it('asks for the same by a phrase as by a press on ladder, chart or ticket, over random books', () => {
    let compared = 0;
    fc.assert(
      fc.property(aim, ({ which, middle, spread, side, away, size, want, said }) => {
        const instrument = INSTRUMENTS[which] as Instrument;
        const bid = addTicks(instrument, asPrice(0), middle);
        const ask = addTicks(instrument, bid, spread);
        const view = { state: 'open', bid, ask, last: bid, priceLimits: { lower: null, upper: null } } as MarketView;
        const price = addTicks(instrument, bid, away);
        const quantity = asQuantity(size);
        const found = ghostAt({ instrument, side, price, quantity, market: view, want });
        if (!found.ok || price <= 0) return;
        const ghost = found.value;
        // Where the price lies from what it is said by, in ticks of one band alone.
        const from = said === 'ask' ? away - spread : away;
        const sameBand = addTicks(instrument, said === 'ask' ? ask : bid, from) === price && INSTRUMENTS[which]?.tickBands.length === 1;
        const way = from === 0 ? '' : ` ${from > 0 ? '+' : '-'} ${Math.abs(from)} ticks`;
        const at = said === 'price' || !sameBand ? formatPrice(instrument, price) : `${said}${way}`;
        const words = ghost.type === 'limit' ? `at ${at}${ghost.effect === 'rests' ? ', rest only' : ''}` : `stop ${at}`;
        const limit = ghost.type === 'stop-limit' ? ` limit ${side === 'buy' ? '+' : '-'} 0 ticks` : '';
        const phrase = `${side} ${formatQuantity(instrument, quantity)} ${words}${limit}`;
        const read = readOrderPhrase(phrase, phraseScene(instrument, { ...view, time: NOW, lastEver: view.last } as unknown as Quote));
        expect(read.ok ? read.value.requests : read.error, phrase).to.deep.equal([{ account: 'MAIN', ...ghostRequest(ghost, instrument) }]);
        compared++;
      }),
      { numRuns: RUNS },
    );
    expect(compared, 'aims that were something').to.be.above(RUNS / 10);
  });
});
