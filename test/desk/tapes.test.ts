import { expect } from 'chai';
import { formatPrice, formatQuantity } from '../../src/core/instrument/index.ts';
import type { OrderRequest, TermsText } from '../../src/core/orders/index.ts';
import { presentQuote, quoteTexts } from '../support/quotes.ts';
import { endWorlds, marketWorld, worldOf } from '../support/scenes.ts';
import { instrument, type World } from '../support/world.ts';

/** At a time: an order by its letter is placed, changed or cancelled. */
type Act = readonly [time: string, letter: string, what: Partial<OrderRequest> | { readonly change: TermsText } | 'cancel'];

interface Case {
  readonly rule: string;
  readonly rows?: readonly string[];
  readonly acts: readonly Act[];
  readonly until: string;
  /** Each order by its letter: its state, filled of quantity and why, then its fills in the order they came. */
  readonly then: Readonly<Record<string, string>>;
  /** A market of its own instead of the usual one. */
  readonly alone?: boolean;
}

const BUY = (limitPrice: string, quantity = '100', more: Partial<OrderRequest> = {}): Partial<OrderRequest> => ({ limitPrice, quantity, ...more });
const SELL = (limitPrice: string, quantity = '100', more: Partial<OrderRequest> = {}): Partial<OrderRequest> => ({
  side: 'sell',
  limitPrice,
  quantity,
  ...more,
});
const MARKET_BUY = (quantity: string): Partial<OrderRequest> => ({ type: 'market', quantity });
const row = (time: string, what: string, id = 'GANET.HALM'): string => `09:00:0${time} ${id} ${what}`;

const CASES: readonly Case[] = [
  {
    rule: '5: a print does not change what is displayed',
    rows: [row('1.000', 'trade buy 41.20 300')],
    acts: [['09:00:01.500', 'A', MARKET_BUY('300')]],
    until: '09:00:01.500',
    then: { A: 'filled 300/300: 300@41.20' },
  },
  {
    rule: '5: what an own order took is gone until its level is displayed anew',
    rows: [row('2.000', 'level ask 41.20 50')],
    acts: [
      ['09:00:01.000', 'A', BUY('41.20', '300')],
      ['09:00:01.500', 'B', BUY('41.20')],
    ],
    until: '09:00:02.000',
    then: { A: 'filled 300/300: 300@41.20', B: 'partially-filled 50/100: 50@41.20' },
  },
  {
    rule: '5: a crossed tape is taken as it is',
    rows: [row('1.000', 'level bid 41.22 80')],
    acts: [
      ['09:00:01.500', 'A', BUY('41.20')],
      ['09:00:01.600', 'B', SELL('41.21', '60', { reduceOnly: false })],
    ],
    until: '09:00:02.000',
    then: { A: 'filled 100/100: 100@41.20', B: 'filled 60/60: 60@41.22' },
  },
  {
    rule: '6: before its first row an instrument takes orders and fills none; its first row opens it',
    alone: true,
    rows: ['09:00:00.000 BRINE.HALM state pre-open', '09:00:02.000 BRINE.HALM level ask 27.30 60', '09:00:03.000 BRINE.HALM state open'],
    acts: [['09:00:01.000', 'A', { instrument: 'BRINE.HALM', ...BUY('27.40') }]],
    until: '09:00:02.500',
    then: { A: 'new 0/100: –' },
  },
  {
    rule: '6: at the open what is marketable is matched in the order it came, at the displayed prices',
    alone: true,
    rows: ['09:00:00.000 BRINE.HALM state pre-open', '09:00:02.000 BRINE.HALM level ask 27.30 160', '09:00:03.000 BRINE.HALM state open'],
    acts: [
      ['09:00:01.000', 'A', { instrument: 'BRINE.HALM', ...BUY('27.35') }],
      ['09:00:01.500', 'B', { instrument: 'BRINE.HALM', ...BUY('27.40') }],
    ],
    until: '09:00:03.000',
    then: { A: 'filled 100/100: 100@27.30', B: 'partially-filled 60/100: 60@27.30' },
  },
  {
    rule: '6: while it is halted orders wait, can be changed and cancelled, and ioc and fok end; other rows go on',
    rows: [row('1.000', 'state halted'), row('2.000', 'level ask 41.19 70'), row('4.000', 'trade sell 41.00 900'), row('5.000', 'state open')],
    acts: [
      ['09:00:01.500', 'A', BUY('41.30', '50')],
      ['09:00:01.600', 'B', BUY('41.30', '50')],
      ['09:00:01.700', 'C', BUY('41.30', '50', { timeInForce: 'ioc' })],
      ['09:00:01.800', 'D', BUY('41.30', '50', { timeInForce: 'fok' })],
      ['09:00:03.000', 'A', 'cancel'],
      ['09:00:03.500', 'B', { change: { limitPrice: '41.19' } }],
    ],
    until: '09:00:05.000',
    then: { A: 'canceled 0/50 user: –', B: 'filled 50/50: 50@41.19', C: 'canceled 0/50 ioc: –', D: 'canceled 0/50 fok: –' },
  },
  {
    rule: '7: levels are taken best first, one fill a level; the rest of a limit waits at its limit',
    rows: [row('1.000', 'trade sell 41.21 40')],
    acts: [['09:00:00.600', 'A', BUY('41.21', '800')]],
    until: '09:00:01.000',
    then: { A: 'partially-filled 740/800: 300@41.20 400@41.21 40@41.21' },
  },
  {
    rule: '7: the rest of a market order takes later opposite levels at their prices and prints from the other side at theirs',
    rows: [row('1.000', 'level ask 41.25 100'), row('2.000', 'trade buy 41.30 500'), row('3.000', 'trade sell 41.19 150'), row('4.000', 'level ask 41.40 10')],
    acts: [['09:00:00.600', 'A', MARKET_BUY('1000')]],
    until: '09:00:04.000',
    then: { A: 'partially-filled 960/1000: 300@41.20 400@41.21 100@41.25 150@41.19 10@41.40' },
  },
  {
    rule: '7: nothing fills outside the price limits, not even a market order',
    rows: [row('0.500', 'price-limit upper 41.20'), row('2.000', 'price-limit upper')],
    acts: [['09:00:00.600', 'A', MARKET_BUY('500')]],
    until: '09:00:01.999',
    then: { A: 'partially-filled 300/500: 300@41.20' },
  },
  {
    rule: '7: a replace that makes an order marketable takes levels as a new order does',
    acts: [
      ['09:00:00.600', 'A', BUY('41.00', '400')],
      ['09:00:01.000', 'A', { change: { limitPrice: '41.21' } }],
    ],
    until: '09:00:01.000',
    then: { A: 'filled 400/400: 300@41.20 100@41.21' },
  },
  {
    rule: '8: the worked example: a print of 700 past 500 ahead fills A, and takes away what was ahead of B',
    rows: [row('1.000', 'level bid 41.18 600'), row('2.000', 'trade sell 41.18 700'), row('3.000', 'trade sell 41.18 60')],
    acts: [
      ['09:00:00.600', 'A', BUY('41.18')],
      ['09:00:01.500', 'B', BUY('41.18')],
    ],
    until: '09:00:03.000',
    then: { A: 'filled 100/100: 100@41.18', B: 'partially-filled 60/100: 60@41.18' },
  },
  {
    rule: '8: an aggressor on an order’s own side does nothing at its price',
    rows: [row('1.000', 'trade buy 41.18 5000')],
    acts: [['09:00:00.600', 'A', BUY('41.18')]],
    until: '09:00:01.000',
    then: { A: 'new 0/100: –' },
  },
  {
    rule: '8: a print through an order’s price fills it wholly at its limit, from either side and of any quantity',
    rows: [row('1.000', 'trade buy 41.17 1'), row('2.000', 'trade sell 41.16 1')],
    acts: [
      ['09:00:00.600', 'A', BUY('41.18')],
      ['09:00:00.700', 'B', BUY('41.17', '900')],
    ],
    until: '09:00:02.000',
    then: { A: 'filled 100/100: 100@41.18', B: 'filled 900/900: 900@41.17' },
  },
  {
    rule: '8: a level on its side lowers what is ahead, and never raises it',
    rows: [row('1.000', 'level bid 41.18 200'), row('1.500', 'level bid 41.18 900'), row('2.000', 'trade sell 41.18 250')],
    acts: [['09:00:00.600', 'A', BUY('41.18')]],
    until: '09:00:02.000',
    then: { A: 'partially-filled 50/100: 50@41.18' },
  },
  {
    rule: '8: an opposite level fills what it reaches, best price first, then as they came, each at its own limit, up to its quantity',
    rows: [row('1.000', 'level ask 41.17 250')],
    acts: [
      ['09:00:00.600', 'A', BUY('41.18')],
      ['09:00:00.700', 'B', BUY('41.18')],
      ['09:00:00.800', 'C', BUY('41.19')],
      // What the level gave is gone from it: nothing is left for one that comes later.
      ['09:00:01.500', 'D', BUY('41.17')],
    ],
    until: '09:00:01.500',
    then: { A: 'filled 100/100: 100@41.18', B: 'partially-filled 50/100: 50@41.18', C: 'filled 100/100: 100@41.19', D: 'new 0/100: –' },
  },
  {
    rule: '9: a change of price and a larger quantity are a new coming, a smaller quantity keeps its place',
    rows: [row('3.000', 'trade sell 41.18 600')],
    acts: [
      ['09:00:00.600', 'A', BUY('41.18')],
      ['09:00:00.700', 'B', BUY('41.18')],
      ['09:00:00.800', 'C', BUY('41.18')],
      ['09:00:01.000', 'A', { change: { quantity: '120' } }],
      ['09:00:01.100', 'B', { change: { quantity: '60' } }],
    ],
    until: '09:00:03.000',
    then: { A: 'new 0/120: –', B: 'filled 60/60: 60@41.18', C: 'partially-filled 40/100: 40@41.18' },
  },
  {
    rule: '9: moved away and back it stands behind those that stayed',
    rows: [row('3.000', 'trade sell 41.18 600')],
    acts: [
      ['09:00:00.600', 'A', BUY('41.18')],
      ['09:00:00.700', 'B', BUY('41.18')],
      ['09:00:01.000', 'A', { change: { limitPrice: '41.17' } }],
      ['09:00:01.100', 'A', { change: { limitPrice: '41.18' } }],
    ],
    until: '09:00:03.000',
    then: { A: 'new 0/100: –', B: 'filled 100/100: 100@41.18' },
  },
  {
    rule: '10: a stop triggers on a print at its price, of any side, and fills against the levels as they are after that row',
    rows: [row('1.000', 'level ask 41.20 0'), row('2.000', 'trade sell 41.25 1')],
    acts: [['09:00:00.600', 'A', { type: 'stop', stopPrice: '41.25', quantity: '150' }]],
    until: '09:00:02.000',
    then: { A: 'filled 150/150: 150@41.21' },
  },
  {
    rule: '10: only rows after acceptance trigger',
    rows: [row('1.000', 'trade buy 41.30 1'), row('2.000', 'trade buy 41.24 1')],
    acts: [['09:00:01.000', 'A', { type: 'stop', stopPrice: '41.25' }]],
    until: '09:00:02.000',
    then: { A: 'new 0/100: –' },
  },
  {
    rule: '10: on the ask a stop triggers when the best ask is at or beyond it after a row',
    rows: [row('1.000', 'level ask 41.20 0'), row('2.000', 'trade buy 41.30 9'), row('3.000', 'level ask 41.21 0'), row('3.000', 'level ask 41.30 500')],
    acts: [['09:00:00.600', 'A', { type: 'stop', stopPrice: '41.25', triggerOn: 'ask' }]],
    until: '09:00:03.000',
    then: { A: 'filled 100/100: 100@41.30' },
  },
  {
    rule: '10: a stop-limit becomes a limit order that comes when it triggers',
    rows: [row('1.000', 'trade buy 41.25 1'), row('2.000', 'level ask 41.21 0'), row('3.000', 'trade sell 41.19 30')],
    acts: [['09:00:00.600', 'A', { type: 'stop-limit', stopPrice: '41.25', limitPrice: '41.20', quantity: '330' }]],
    until: '09:00:03.000',
    then: { A: 'filled 330/330: 300@41.20 30@41.20' },
  },
  {
    rule: '11: own orders do not meet one another',
    acts: [
      ['09:00:00.600', 'A', BUY('41.19')],
      ['09:00:00.700', 'B', SELL('41.19', '100', { reduceOnly: false })],
    ],
    until: '09:00:02.000',
    then: { A: 'new 0/100: –', B: 'new 0/100: –' },
  },
  {
    rule: '11: an own fill is no print: it triggers nothing',
    acts: [
      ['09:00:00.600', 'A', { type: 'stop', stopPrice: '41.21', quantity: '10' }],
      ['09:00:00.700', 'B', MARKET_BUY('500')],
    ],
    until: '09:00:02.000',
    then: { A: 'new 0/10: –', B: 'filled 500/500: 300@41.20 200@41.21' },
  },
];

async function fillsOf(w: World, id: string): Promise<string> {
  const fills = (await w.fills()).filter(({ orderId }) => orderId === id);
  const of = (text: (typeof fills)[number]): string =>
    `${formatQuantity(instrument(text.instrument), text.quantity)}@${formatPrice(instrument(text.instrument), text.price)}`;
  return fills.map(of).join(' ') || '–';
}

describe('a tape (exact rules, Tapes)', () => {
  afterEach(endWorlds);

  for (const { rule, rows = [], acts, until, then, alone } of CASES)
    it(rule, async () => {
      const w = alone ? await worldOf(rows) : await marketWorld(rows);
      const ids = new Map<string, string>();
      for (const [time, letter, what] of acts) {
        await w.to(time);
        const id = ids.get(letter) ?? '';
        if (what === 'cancel') await w.cancel(id);
        else if ('change' in what) await w.replace(id, what.change);
        else ids.set(letter, await w.placed(what));
      }
      await w.to(until);
      const shown: Record<string, string> = {};
      for (const [letter, id] of ids) shown[letter] = `${await w.shown(id)}: ${await fillsOf(w, id)}`;
      expect(shown).to.deep.equal(then);
    });

  it('3: a new world stands 1 ms before the first row; at a time every row up to it has happened; then time goes on', async () => {
    const w = await worldOf(['09:00:01.000 GANET.HALM trade buy 41.20 5']);
    expect(w.exchange.time).to.equal(Date.parse('2026-03-02T09:00:00.999Z'));
    expect((await presentQuote(w)).last).to.equal(null);
    await w.to('09:00:01.000');
    expect((await presentQuote(w)).last).to.equal('41.20');
    await w.to('2026-03-05T09:00:00.000Z');
    expect(w.exchange.time).to.equal(Date.parse('2026-03-05T09:00:00.000Z'));
  });

  it('12 and 13: what a day is settled at, and what a position is marked at, step by step', async () => {
    const w = await worldOf([
      '09:00:00.000 GANET.HALM level ask 41.20 100',
      '09:00:01.000 GANET.HALM level bid 41.10 100',
      '09:00:02.000 GANET.HALM trade sell 41.11 5',
      '2026-03-03T09:00:00.000Z GANET.HALM settlement 41.50',
      '2026-03-03T09:00:01.000Z GANET.HALM level bid 41.10 0',
      '2026-03-05T09:00:00.000Z GANET.HALM trade buy 42.00 5',
    ]);
    await w.to('09:00:00.000');
    await w.placed({ limitPrice: '41.20', quantity: '50' });
    const seen: string[] = [];
    const look = async (time: string): Promise<void> => {
      await w.to(time);
      seen.push(`${(await w.position('MAIN')).mark} ${quoteTexts(await presentQuote(w), 'last', 'previousSettlement', 'change')}`);
    };
    // No trade, one side only, no settlement: the average. Both sides: the mid. Then the trade.
    await look('09:00:00.500');
    await look('09:00:01.000');
    await look('09:00:02.000');
    // The next day: no trade of today, so the mid again; settled at the last trade of the day before.
    await look('2026-03-03T00:00:00.000Z');
    // The settlement row counts at the turn; without a bid there is no mid.
    await look('2026-03-03T09:00:01.000Z');
    await look('2026-03-04T00:00:00.000Z');
    // A day without anything is settled at the one before.
    await look('2026-03-05T00:00:00.000Z');
    await look('2026-03-05T09:00:00.000Z');
    expect(seen).to.deep.equal([
      '41.20 – – –',
      '41.15 – – –',
      '41.11 41.11 – –',
      '41.15 – 41.11 –',
      '41.11 – 41.11 –',
      '41.50 – 41.50 –',
      '41.50 – 41.50 –',
      '42.00 42.00 41.50 0.50',
    ]);
  });

  it('14: after a kill the same advance gives what it would have given', async () => {
    const rows = Array.from({ length: 40 }, (_, i) => row(`1.${String(100 + i)}`, `trade sell 41.18 ${20 + i}`));
    const whole = await marketWorld(rows);
    const id = await whole.placed({ limitPrice: '41.18', quantity: '900' });
    await whole.to('09:00:02.000');
    let w = await marketWorld(rows);
    const same = await w.placed({ limitPrice: '41.18', quantity: '900' });
    for (const time of ['09:00:01.110', '09:00:01.125', '09:00:02.000']) {
      const begun = w.to(time);
      await new Promise((next) => setImmediate(next));
      const fresh = await w.kill();
      void begun.catch(() => undefined);
      w = fresh;
      await w.to(time);
    }
    expect([await w.shown(same), await fillsOf(w, same)]).to.deep.equal([await whole.shown(id), await fillsOf(whole, id)]);
    await w.close();
  });
});
