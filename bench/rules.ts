import { ACCOUNTS } from '../demo/accounts.ts';
import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { decide, keepPlan, newAccountState, type AccountState, type Facts, type PriceRow } from '../src/core/desk/index.ts';
import { legPrice, readExitPlan, waitingPlan, type ExitPlanText } from '../src/core/exits/index.ts';
import { asHalves, asPrice, asQuantity, type Instrument } from '../src/core/instrument/index.ts';
import { money } from '../src/core/number/index.ts';
import { readOrder } from '../src/core/orders/index.ts';
import { flatPosition, openAccount, type AccountTerms } from '../src/core/portfolio/index.ts';
import { NO_RULES, readRules, type RiskRules } from '../src/core/risk/index.ts';
import { percentile, times, type Figure } from './table.ts';

const NOON = Date.parse('2026-03-02T12:00:00.000Z');
const [MAIN] = ACCOUNTS as readonly [AccountTerms];
const GANET = FIXED_INSTRUMENTS.find(({ id }) => id === 'GANET.HALM') as Instrument;
const AT = asPrice(4120);

/** So many shares like one another. */
const sharesOf = (count: number): Map<string, Instrument> =>
  new Map(Array.from({ length: count }, (_, i) => [`SHARE${i}.HALM`, { ...GANET, id: `SHARE${i}.HALM`, ticker: `SHARE${i}` }]));

const factsOf = (instruments: ReadonlyMap<string, Instrument>): Facts => ({
  now: NOON,
  link: 'up',
  data: 'up',
  consent: true,
  instrument: (id) => instruments.get(id) as Instrument,
  mark: () => asHalves(2 * AT),
  view: () => ({ state: 'open', bid: asPrice(4119), ask: AT, last: AT, priceLimits: { lower: null, upper: null } }),
  book: () => ({ bids: [], asks: [{ price: AT, quantity: asQuantity(100_000) }] }),
  asked: () => null,
  past: () => null,
  standing: () => null,
  tradesAfter: () => [],
});

/** An account that holds 1,000 of each instrument. */
function holding(instruments: ReadonlyMap<string, Instrument>, rules: RiskRules): AccountState {
  const state = newAccountState({ ...MAIN, rules });
  const cost = money('41200.00');
  const positions = [...instruments.keys()].map(
    (id) => [id, { ...flatPosition(id, NOON), quantity: asQuantity(1000), cost, dayCost: cost, openedAt: NOON }] as const,
  );
  state.book = { ...openAccount(MAIN), cash: money('100000000.00'), positions: Object.fromEntries(positions) };
  return state;
}

const PLAN: ExitPlanText = {
  heldBy: 'here',
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps: [{ share: '100', stop: { by: 'ticks', value: '50', order: 'market' }, target: { by: 'ticks', value: '100', order: 'limit' } }],
};

/** Plans that wait here, `each` on every instrument. */
function withPlans(state: AccountState, instruments: ReadonlyMap<string, Instrument>, each: number): void {
  const read = readExitPlan(PLAN);
  if (!read.ok) throw new Error('no plan');
  const reference = { quantity: asQuantity(1000), cost: money('41200.00') };
  for (const [id, instrument] of instruments)
    for (let i = 0; i < each; i++) {
      const plan = waitingPlan(`${id}-${i}`, MAIN.id, id, read.value, true, null, NOON);
      const priceOf = (leg: 'stop' | 'target') => {
        const asked = read.value.steps[0]?.[leg];
        return asked ? legPrice(instrument, true, leg, asked.distance, reference, asQuantity(100)) : null;
      };
      const steps = plan.steps.map((step) => ({
        ...step,
        open: asQuantity(100),
        stop: step.stop && { ...step.stop, price: priceOf('stop'), sent: priceOf('stop') },
        target: step.target && { ...step.target, price: priceOf('target'), sent: priceOf('target') },
      }));
      keepPlan(state, { ...plan, state: 'armed', reference, steps });
    }
}

const row = (instrument: string, price: number): PriceRow => {
  const traded = asPrice(price);
  return { time: NOON, instrument, state: 'open', traded, last: traded, mark: asHalves(2 * price), bid: asPrice(price - 1), ask: traded };
};

/** Milliseconds each of so many calls took. */
function timed(count: number, call: (i: number) => unknown): number[] {
  for (let i = 0; i < 200; i++) call(i);
  return Array.from({ length: count }, (_, i) => {
    const from = performance.now();
    call(i);
    return performance.now() - from;
  });
}
const micro = (ms: number): string => `${(ms * 1000).toFixed(1)} µs`;

/** What a price costs where exits wait here, and how long one takes to fire. */
export function triggers(): Figure[] {
  const [many, one] = [sharesOf(100), sharesOf(1)];
  const [crowded, alone] = [holding(many, NO_RULES), holding(one, NO_RULES)];
  withPlans(crowded, many, 10);
  withPlans(alone, one, 10);
  const quiet = (state: AccountState, facts: Facts): number[] => timed(5000, () => decide(state, { kind: 'priced', row: row('SHARE0.HALM', 4120) }, facts));
  const [beside, by] = [percentile(quiet(crowded, factsOf(many)), 0.5), percentile(quiet(alone, factsOf(one)), 0.5)];
  const fires = timed(2000, () => decide(crowded, { kind: 'priced', row: row('SHARE0.HALM', 4060) }, factsOf(many)));
  return [
    {
      what: 'a price beside 990 plans on other instruments, 10 on its own',
      value: micro(beside),
      baseline: `${micro(by)} alone`,
      ratio: times(beside / by),
      wanted: '≤ 1.5×',
    },
    {
      what: '10 plans held here fire: price to orders decided, p99',
      value: micro(percentile(fires, 0.99)),
      baseline: '5 ms',
      ratio: times(percentile(fires, 0.99) / 5),
      wanted: '≤ 1×',
    },
  ];
}

/** What the rules cost: all of an account for one order, and a price with 50 positions that closes them out. */
export function rules(): Figure[] {
  const instruments = sharesOf(50);
  const read = readRules({
    dayLossLimit: '1000000',
    onDayLoss: 'close-out',
    instrumentLossLimit: '1000000',
    onInstrumentLoss: 'close-out',
    dayQuantityCap: { share: '1000000' },
    noTradeWindows: [{ from: '03:00', to: '03:05' }],
    maxOrderQuantity: '10000',
    maxOrderValue: '10000000',
    maxDistancePercent: '5',
    maxOrdersPerMinute: 1000,
    maxPositionQuantity: '100000',
    coolDownMinutes: 10,
    coolDownAfterLosses: 3,
    openRisk: 'warn',
  });
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  const facts = factsOf(instruments);
  const order = (state: AccountState): (() => unknown) => {
    const asked = readOrder(
      { clientOrderId: 'b', account: MAIN.id, instrument: 'SHARE0.HALM', side: 'buy', type: 'limit', quantity: '100', limitPrice: '41.00' },
      instruments.get('SHARE0.HALM') as Instrument,
    );
    if (!asked.ok) throw new Error('no order');
    return () => decide(state, { kind: 'asked', intent: { kind: 'place', order: asked.value } }, facts);
  };
  const few = new Map([...instruments].slice(0, 1));
  const [ruled, free] = [percentile(timed(3000, order(holding(few, read.value))), 0.5), percentile(timed(3000, order(holding(few, NO_RULES))), 0.5)];
  const lost = holding(instruments, { ...read.value, dayLossLimit: money('1.00') });
  const out = timed(500, () => decide(lost, { kind: 'judged' }, { ...facts, mark: () => asHalves(2 * 4000) }));
  return [
    { what: 'all rules of one account for one order', value: micro(ruled - free), baseline: '50 µs', ratio: times((ruled - free) / 0.05), wanted: '≤ 1×' },
    {
      what: 'a price that closes out 50 positions: orders decided, p99',
      value: micro(percentile(out, 0.99)),
      baseline: '20 ms',
      ratio: times(percentile(out, 0.99) / 20),
      wanted: '≤ 1×',
    },
  ];
}
