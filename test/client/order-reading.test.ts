import { expect } from 'chai';
import fc from 'fast-check';
import { readHere, type HeardMarket, type ReadFor } from '../../src/client/order-reading.ts';
import type { PhraseReading } from '../../src/client/phrase-acts.ts';
import { readOrderPhrase } from '../../src/core/language/index.ts';
import { sceneOf } from '../../src/desk/phrases.ts';
import { presentAccount, presentPosition, presentQuote } from '../../src/desk/present/index.ts';
import { ODD_CHARACTERS, orderText } from '../support/phrases.ts';
import { endWorlds, marketWorld } from '../support/scenes.ts';
import type { World } from '../support/world.ts';

const GANET: ReadFor = { account: 'MAIN', instrument: 'GANET.HALM' };
const RUNS = 3000;

/** What a window is told of the desk's market and accounts. */
function heardOf({ desk }: World): HeardMarket {
  const followed = ['GANET.HALM', 'KELPA.HALM'];
  return {
    now: desk.now(),
    accounts: ['MAIN', 'EVAL', 'NIGHT'].map((id) => presentAccount(desk.account(id), desk.marks())),
    instrumentOf: (id) => desk.market.find(id),
    listingsOf: (ticker) => desk.market.listings(ticker),
    quote: (id) => {
      const quote = followed.includes(id) ? desk.quoteOf(id) : undefined;
      return quote && presentQuote(desk.instrument(id), quote);
    },
    position: (account, id) => {
      const state = desk.account(account);
      const position = state.book.positions[id];
      return position && presentPosition(state, position, desk.marks(), () => null);
    },
  };
}

/** What the server says of it. */
function told({ desk }: World, phrase: string, target: ReadFor): Omit<PhraseReading, never> {
  const read = readOrderPhrase(phrase, sceneOf(desk, { accounts: ['MAIN', 'EVAL', 'NIGHT'], plans: new Set(['scalp', 'two step']) }, target));
  const said = read.ok ? { ok: true, ...read.value, error: null } : { ok: false, canonical: null, reading: null, requests: [], act: null, error: read.error };
  return said as unknown as PhraseReading;
}

describe('an order phrase that is read where it is pressed', () => {
  afterEach(endWorlds);

  it('says what the server says, or that it does not know', async () => {
    const worlds: World[] = [
      await marketWorld(),
      await marketWorld(['09:00:00.100 GANET.HALM trade buy 41.20 100', '09:00:00.200 GANET.HALM level ask 41.20 300']),
    ];
    const [, held] = worlds as [World, World];
    await held.place({ type: 'market', quantity: '100' });
    const short = await marketWorld();
    await short.place({ side: 'sell', type: 'market', quantity: '50' });
    let here = 0;
    for (const world of [...worlds, short]) {
      const market = heardOf(world);
      fc.assert(
        fc.property(orderText, fc.constantFrom('MAIN', 'EVAL', 'NIGHT', 'NOBODY'), (phrase, account) => {
          const target = { ...GANET, account };
          const read = readHere(phrase, target, market);
          if (read === null) return;
          here++;
          expect(read).to.deep.equal(told(world, phrase, target));
        }),
        { numRuns: RUNS },
      );
    }
    expect(here, 'most is read here').to.be.above(RUNS * 3 * 0.4);
  });

  it('never throws, whatever is typed', async () => {
    const market = heardOf(await marketWorld());
    const odd = fc.array(fc.oneof(orderText, fc.constantFrom(...ODD_CHARACTERS)), { maxLength: 4 }).map((parts) => parts.join(' '));
    fc.assert(
      fc.property(odd, (phrase) => {
        readHere(phrase, GANET, market);
      }),
      { numRuns: RUNS },
    );
  });

  it('knows the book, the sizes and what is held', async () => {
    const world = await marketWorld();
    await world.place({ type: 'market', quantity: '100' });
    const market = heardOf(world);
    for (const phrase of [
      'buy 100 at bid',
      'sell 300 at ask + 2 ticks',
      'buy 100',
      'sell position at mid',
      'close 50 %',
      'reverse',
      'cancel buys',
      'sell 50 % of position at ask',
      'buy for 5000 at bid',
      'buy risking 100 to 41.00',
    ])
      expect(readHere(phrase, GANET, market)?.ok, phrase).to.equal(true);
    expect(readHere('buy 100 at bid', GANET, market)?.requests[0]).to.include({ instrument: 'GANET.HALM', limitPrice: '41.18', quantity: '100' });
    expect(readHere('buy 100 at bidd', GANET, market)?.error?.message).to.not.equal(undefined);
  });

  it('does not know buying power, what a position cost, saved plans, an average price, nor what the window does not follow', async () => {
    const world = await marketWorld();
    await world.place({ type: 'market', quantity: '100' });
    const market = heardOf(world);
    for (const phrase of [
      'buy 10 % of equity at bid',
      'buy 25 % of buying power',
      'sell 100 at average',
      'buy 100 at vwap',
      'buy 100, with scalp',
      'buy 100 BRINE at bid',
    ])
      expect(readHere(phrase, GANET, market), phrase).to.equal(null);
    expect(readHere('buy 100 at bid, until 2026-03-04', GANET, { ...market, now: null })).to.equal(null);
  });
});
