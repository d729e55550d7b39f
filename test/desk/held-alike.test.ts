import { expect } from 'chai';
import fc from 'fast-check';
import type { OrderRequest } from '../../src/core/orders/index.ts';
import { formatPrice, asPrice } from '../../src/core/instrument/index.ts';
import { endWorlds, worldOf } from '../support/scenes.ts';
import { instrument, refusedAs } from '../support/world.ts';

const RUNS = Number(process.env['KAVIX_RUNS'] ?? 120);
const GANET = 'GANET.HALM';
const MIDDLE = 4120;
const ROWS = 24;
const timeOf = (second: number): string => `09:00:${String(second).padStart(2, '0')}.000`;
const said = (price: number): string => formatPrice(instrument(GANET), asPrice(price));

/** A row of a market that wanders: a level shown or taken away near the middle, or a trade. */
const row = fc.record({
  event: fc.constantFrom('bid', 'ask', 'buy', 'sell'),
  away: fc.integer({ min: -12, max: 12 }),
  quantity: fc.constantFrom(0, 40, 100, 400),
});
/** Levels stay on their sides; trades go where they will. */
const rowText = ({ event, away, quantity }: { event: string; away: number; quantity: number }, i: number): string => {
  const time = timeOf(i + 1);
  if (event === 'bid') return `${time} ${GANET} level bid ${said(MIDDLE - 1 - Math.abs(away))} ${quantity}`;
  if (event === 'ask') return `${time} ${GANET} level ask ${said(MIDDLE + 1 + Math.abs(away))} ${quantity}`;
  return `${time} ${GANET} trade ${event} ${said(MIDDLE + away)} ${Math.max(1, quantity)}`;
};

/** A stop of any kind, on either side, triggered by any of the three. */
const stopping = fc
  .record({
    side: fc.constantFrom('buy' as const, 'sell' as const),
    type: fc.constantFrom('stop' as const, 'stop-limit' as const, 'trailing-stop' as const),
    away: fc.integer({ min: 2, max: 10 }),
    triggerOn: fc.constantFrom('last' as const, 'bid' as const, 'ask' as const),
    offset: fc.integer({ min: 0, max: 4 }),
    quantity: fc.constantFrom('50', '150', '600'),
    ends: fc.option(fc.integer({ min: 1, max: ROWS }), { nil: null }),
    trail: fc.constantFrom({ unit: 'ticks', value: '4' } as const, { unit: 'percent', value: '0.15' } as const, { unit: 'money', value: '9' } as const),
  })
  .map(({ side, type, away, triggerOn, offset, quantity, trail, ends }): Partial<OrderRequest> => {
    const stopPrice = said(side === 'buy' ? MIDDLE + away : MIDDLE - away);
    const base = {
      side,
      type,
      quantity,
      triggerOn,
      limitPrice: undefined,
      reduceOnly: false,
      ...(ends === null ? {} : { timeInForce: 'gtd' as const, expiresAt: `2026-03-02T${timeOf(ends)}Z` }),
    } as const;
    if (type === 'trailing-stop') return { ...base, trail };
    return type === 'stop' ? { ...base, stopPrice } : { ...base, stopPrice, limitOffsetTicks: offset };
  });

/** How an order ends up on a tape: whether it is taken, what it filled, when and at what. */
async function lived(rows: readonly string[], order: Partial<OrderRequest>, heldBy: 'venue' | 'here'): Promise<string | { stands: string[]; fills: string[] }> {
  const w = await worldOf([
    `09:00:00.000 ${GANET} level bid ${said(MIDDLE - 1)} 500`,
    `09:00:00.000 ${GANET} level ask ${said(MIDDLE + 1)} 500`,
    `09:00:00.000 ${GANET} trade buy ${said(MIDDLE)} 10`,
    ...rows,
  ]);
  await w.to('09:00:00.500');
  const done = await w.place({ ...order, heldBy });
  if (!done.ok) return refusedAs(done);
  const id = done.value.kind === 'order' ? done.value.order.id : '';
  const stands: string[] = [];
  for (let i = 1; i <= ROWS; i++) {
    await w.to(timeOf(i));
    const { state, stopPrice, filledQuantity } = await w.order(id);
    stands.push(`${state} ${filledQuantity} ${stopPrice ?? '–'}`);
  }
  const fills = (await w.fills()).map(({ time, price, quantity }) => `${time - Date.parse('2026-03-02T09:00:00Z')} ${quantity}@${price}`);
  await w.close();
  return { stands, fills };
}

describe('a stop held here', () => {
  afterEach(endWorlds);

  it('lives as the same stop would at the venue, row by row, whatever kind it is and whatever the market does', async function () {
    this.timeout(300_000);
    let filled = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(row, { minLength: ROWS, maxLength: ROWS }), stopping, async (market, order) => {
        const rows = market.map(rowText);
        const [venue, here] = [await lived(rows, order, 'venue'), await lived(rows, order, 'here')];
        expect(here, JSON.stringify(order)).to.deep.equal(venue);
        if (typeof venue !== 'string' && venue.fills.length > 0) filled++;
      }),
      { numRuns: RUNS },
    );
    expect(filled, 'orders that filled').to.be.above(RUNS / 10);
  });
});
