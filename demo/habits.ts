import { asPrice, formatPrice, tickAt, type Instrument, type Price } from '../src/core/instrument/index.ts';
import { type Day, type Side } from '../src/core/market/index.ts';
import type { OrderRequest } from '../src/core/orders/index.ts';
import { Chance, textKey } from '../src/core/random/index.ts';
import type { Minutes } from '../src/venue/demo-market/minutes.ts';
import type { DemoWorld, Profile } from '../src/venue/demo-market/profile.ts';

const MINUTE = 60_000;
/** The loss at which EVAL's day ends, in EUR. */
const DAY_LIMIT = 500;
/** After the minute that gave the idea has ended. */
const THINKS_MS = 4_000;

/** Something that the demo's trader once did. */
export type Act = { readonly at: number; readonly account: string } & (
  | { readonly kind: 'place'; readonly order: Omit<OrderRequest, 'account'> }
  /** Takes back what has not filled by then. */
  | { readonly kind: 'cancel'; readonly clientOrderId: string }
  | { readonly kind: 'close'; readonly instrument: string }
  /** Moves the stops of an instrument's plan. */
  | { readonly kind: 'move-stop'; readonly instrument: string; readonly stopPrice: string }
  | { readonly kind: 'note'; readonly instrument: string; readonly clientOrderId: string; readonly note: string }
  | { readonly kind: 'cash'; readonly cashKind: 'deposit' | 'withdrawal'; readonly amount: string }
  | { readonly kind: 'lock'; readonly until: number; readonly rule: 'dayLossLimit' }
);

/** Acts in one instrument, the time of its market that they need, and the prices at which something may happen. */
export interface Idea {
  readonly instrument: Instrument;
  readonly from: number;
  readonly to: number;
  readonly levels: readonly Price[];
  /** What is bought is kept: its days are settled on. */
  readonly kept?: true;
  readonly acts: readonly Act[];
}

/** What the past is made from: an instrument's session by the minute and its day's close, as the history has them. */
export interface PastHistory {
  sessionOf(instrument: string, day: Day): Minutes | null;
  closeOf(instrument: string, day: Day): Price | undefined;
}

/** A session with what is wanted of it again and again. */
interface Scene {
  readonly instrument: Instrument;
  readonly minutes: Minutes;
  readonly name: string;
  readonly chance: Chance;
}

const at = ({ minutes }: Scene, minute: number): number => minutes.start + minute * MINUTE + THINKS_MS;
const closeAt = ({ minutes }: Scene, minute: number): number => minutes.close[Math.min(minute, minutes.close.length - 1)] ?? 0;
const tickOf = ({ instrument }: Scene, price: number): number => tickAt(instrument, asPrice(price));
const say = ({ instrument }: Scene, price: number): string => formatPrice(instrument, asPrice(price));

/** A price on the grid that is this much away. */
function onGrid(scene: Scene, price: number): number {
  const tick = tickOf(scene, price);
  return Math.round(price / tick) * tick;
}

/** What the loss of a unit is, in EUR, over a distance in price units. */
const perUnit = ({ instrument }: Scene, distance: number): number => (distance / 10 ** instrument.priceDecimals) * (instrument.multiplier ?? 1);

function bracket(scene: Scene, stop: number, target: number): OrderRequest['exitPlan'] {
  const leg = (price: number, order: 'market' | 'limit') => ({ by: 'price' as const, value: say(scene, price), order });
  return { heldBy: 'venue', onSizeChange: 'follow', onMissedLevel: 'fire', steps: [{ share: '100', stop: leg(stop, 'market'), target: leg(target, 'limit') }] };
}

const extreme = (values: Int32Array, from: number, to: number, pick: (...all: number[]) => number): number => pick(...values.subarray(from, to + 1));

/** Whether one price is reached before another. */
function reachesFirst({ high, low }: Minutes, from: number, to: number, wanted: number, feared: number): boolean {
  const up = wanted > feared;
  for (let i = from; i < Math.min(to, high.length); i++) {
    const [top = 0, bottom = 0] = [high[i], low[i]];
    if (up ? bottom <= feared : top >= feared) return false;
    if (up ? top >= wanted : bottom <= wanted) return true;
  }
  return false;
}

/** What an idea may lose, in EUR. */
const RISK = 150;

const REGRETS = [
  'Moved the stop away. The plan was right, I was not.',
  'Could not watch it go and gave it more room. It took all of it.',
  'No reason to stay in but the loss itself.',
];

/** Buys the first return to the average of twenty minutes on a day that has gone up. */
export function pullback(scene: Scene, account: string): Idea | null {
  const { minutes, instrument, name, chance } = scene;
  const { close, low } = minutes;
  const open = minutes.open[0] ?? 0;
  let sum = 0;
  for (let i = 0; i < Math.min(290, close.length); i++) {
    sum += (close[i] ?? 0) - (i >= 20 ? (close[i - 20] ?? 0) : 0);
    const average = sum / 20;
    const returns = i > 40 && (close[i - 1] ?? 0) < average && (close[i] ?? 0) >= average && (close[i] ?? 0) > open * 1.002;
    if (!returns) continue;
    const entry = close[i] ?? 0;
    const stop = onGrid(scene, Math.min(extreme(low, i - 10, i, Math.min) - tickOf(scene, entry), entry * 0.987));
    const distance = entry - stop;
    if (distance > entry * 0.04) continue;
    const target = onGrid(scene, entry + distance * (1 + 0.8 * chance.next()));
    // He sees some of what will fail: not all of it.
    if (!reachesFirst(minutes, i + 1, i + 190, target, stop) && closeAt(scene, i + 190) < entry && chance.next() < 0.9) continue;
    const quantity = Math.floor(RISK / perUnit(scene, distance) / 10) * 10;
    if (quantity < 10) return null;
    const acts: Act[] = [
      {
        at: at(scene, i + 1),
        account,
        kind: 'place',
        order: {
          clientOrderId: name,
          instrument: instrument.id,
          side: 'buy',
          type: 'limit',
          quantity: String(quantity),
          limitPrice: say(scene, entry),
          setup: 'Pullback',
          exitPlan: bracket(scene, stop, target),
        },
      },
      { at: at(scene, i + 26), account, kind: 'cancel', clientOrderId: name },
    ];
    const levels = [entry, stop, target];
    const later = closeAt(scene, i + 41) - entry;
    const move = (price: number, minute: number): void => {
      levels.push(price);
      acts.push({ at: at(scene, minute), account, kind: 'move-stop', instrument: instrument.id, stopPrice: say(scene, price) });
    };
    // Most of the time to where it began; now and then the wrong way, because it can't be wrong.
    if (later > distance * 0.3 && chance.next() < 0.7) move(entry + tickOf(scene, entry), i + 42);
    else if (later < -distance * 0.4 && chance.next() < 0.6) {
      move(onGrid(scene, stop - distance * 0.7), i + 42);
      acts.push({ at: at(scene, i + 200), account, kind: 'note', instrument: instrument.id, clientOrderId: name, note: chance.pick(REGRETS) });
    }
    acts.push({ at: at(scene, i + 190), account, kind: 'close', instrument: instrument.id });
    return { instrument, from: minutes.start + i * MINUTE, to: minutes.start + (i + 192) * MINUTE, levels: levels.map(asPrice), acts };
  }
  return null;
}

const MOST_CONTRACTS = 3;

/** A break of the index with far too many contracts and a stop far away, on a day on which that goes wrong. */
function oversizedBreak(scene: Scene, account: string): Idea | null {
  const { minutes } = scene;
  const high = extreme(minutes.high, 0, 14, Math.max);
  const entry = high + 2 * tickOf(scene, high);
  const far = Math.round((BEYOND_LIMIT * DAY_LIMIT) / perUnit(scene, 1) / TOO_MANY);
  const stop = onGrid(scene, entry - far);
  const begun = minutes.high.findIndex((price, i) => i > 14 && price >= entry);
  if (begun < 0 || begun > 140 || closeAt(scene, 14) >= entry - tickOf(scene, entry)) return null;
  const worst = extreme(minutes.low, begun, 299, Math.min);
  const best = extreme(minutes.high, begun, 299, Math.max);
  const target = onGrid(scene, entry + far);
  if (worst >= entry - far * 0.75 || best >= target) return null;
  const besides = [onGrid(scene, entry - far / BEYOND_LIMIT)];
  return breakOf(scene, account, { up: true, entry, stop, target, quantity: TOO_MANY, besides });
}

/** Trades the break of the first quarter of an hour, by a stop order that waits there. */
export function openingBreak(scene: Scene, account: string): Idea | null {
  const { minutes, chance } = scene;
  const high = extreme(minutes.high, 0, 14, Math.max);
  const low = extreme(minutes.low, 0, 14, Math.min);
  const now = closeAt(scene, 14);
  const tick = tickOf(scene, now);
  const up = now - low > high - now;
  const entry = up ? high + 2 * tick : low - 2 * tick;
  const stop = onGrid(scene, (high + low) / 2);
  const distance = Math.abs(entry - stop);
  if (distance < 3 * tick || Math.abs(now - entry) < 2 * tick) return null;
  const target = onGrid(scene, entry + (entry - stop) * 1.6);
  const quantity = Math.min(MOST_CONTRACTS, Math.floor(RISK / perUnit(scene, distance)));
  if (quantity < 1 || (!reachesFirst(minutes, 15, 300, target, stop) && chance.next() < 0.7)) return null;
  return breakOf(scene, account, { up, entry, stop, target, quantity });
}

interface Break {
  readonly up: boolean;
  readonly entry: number;
  readonly stop: number;
  readonly target: number;
  readonly quantity: number;
  /** Where else something may happen. */
  readonly besides?: readonly number[];
}

function breakOf(scene: Scene, account: string, { up, entry, stop, target, quantity, besides = [] }: Break): Idea {
  const { minutes, instrument, name } = scene;
  const order: Omit<OrderRequest, 'account'> = {
    clientOrderId: name,
    instrument: instrument.id,
    side: up ? 'buy' : 'sell',
    type: 'stop',
    quantity: String(quantity),
    stopPrice: say(scene, entry),
    setup: 'Opening break',
    exitPlan: bracket(scene, stop, target),
  };
  return {
    instrument,
    from: minutes.start + 14 * MINUTE,
    to: minutes.start + 302 * MINUTE,
    levels: [entry, stop, target, ...besides].map(asPrice),
    acts: [
      { at: at(scene, 15), account, kind: 'place', order },
      { at: at(scene, 150), account, kind: 'cancel', clientOrderId: name },
      { at: at(scene, 300), account, kind: 'close', instrument: instrument.id },
    ],
  };
}

/** One leg of a pair: in at market after an hour, out before the end, and no stop. */
export function pairLeg(scene: Scene, account: string, side: Side): Idea | null {
  const { minutes, instrument, name } = scene;
  const quantity = Math.floor(7_500 / perUnit(scene, closeAt(scene, 60)) / 10) * 10;
  if (quantity < 10) return null;
  const order = { clientOrderId: name, instrument: instrument.id, side, type: 'market' as const, quantity: String(quantity), setup: 'Pair' };
  return {
    instrument,
    from: minutes.start + 59 * MINUTE,
    to: minutes.start + 442 * MINUTE,
    levels: [],
    acts: [
      { at: at(scene, 60), account, kind: 'place', order },
      { at: at(scene, 440), account, kind: 'close', instrument: instrument.id },
    ],
  };
}

/** In the evening, where trading never ends: a dip bought with a limit, left after an hour or two. */
export function eveningDip(scene: Scene, account: string): Idea | null {
  const { minutes, instrument, name, chance } = scene;
  const minute = 19 * 60 + chance.below(120);
  const now = closeAt(scene, minute);
  const entry = onGrid(scene, now * 0.9985);
  const target = onGrid(scene, now * 1.004);
  const quantity = Math.floor(2_400 / perUnit(scene, now));
  if (quantity < 1) return null;
  const order = { instrument: instrument.id, type: 'limit' as const, quantity: String(quantity) };
  return {
    instrument,
    from: minutes.start + minute * MINUTE,
    to: minutes.start + (minute + 112) * MINUTE,
    levels: [entry, target].map(asPrice),
    acts: [
      {
        at: at(scene, minute + 1),
        account,
        kind: 'place',
        order: { ...order, clientOrderId: name, side: 'buy', limitPrice: say(scene, entry), setup: 'Evening dip' },
      },
      { at: at(scene, minute + 30), account, kind: 'cancel', clientOrderId: name },
      {
        at: at(scene, minute + 31),
        account,
        kind: 'place',
        order: { ...order, clientOrderId: `${name}-out`, side: 'sell', limitPrice: say(scene, target), reduceOnly: true },
      },
      { at: at(scene, minute + 110), account, kind: 'close', instrument: instrument.id },
    ],
  };
}

/** Shares bought to be kept. */
function holding(scene: Scene, account: string): Idea | null {
  const { minutes, instrument, name, chance } = scene;
  const quantity = Math.floor((6_000 + 5_000 * chance.next()) / perUnit(scene, closeAt(scene, 120)) / 10) * 10;
  if (quantity < 10) return null;
  const order = { clientOrderId: name, instrument: instrument.id, side: 'buy' as const, type: 'market' as const, quantity: String(quantity) };
  return {
    instrument,
    from: minutes.start + 119 * MINUTE,
    to: minutes.start + 122 * MINUTE,
    levels: [],
    kept: true,
    acts: [{ at: at(scene, 120), account, kind: 'place', order }],
  };
}

/** So many of the most traded shares he knows. */
const LIQUID = 28;
const HOLDINGS = 6;

/** The days, counted from the first, from which on the size is once the mood's, when it goes wrong. */
const OVERSIZED = [12, 34];
const LOCKED = 42;
/** How many contracts that is, of the index. */
const TOO_MANY = 4;
/** Its stop lies so far beyond what the day may lose. */
const BEYOND_LIMIT = 1.6;
const WEEK_MS = 7 * 86_400_000;

/** The liquid shares, those of the fixed world, what is not listed yet and what is held left out. */
function pools(world: DemoWorld, fixed: ReadonlySet<string>): { traded: Profile[]; held: Profile[] } {
  const liquid = world.profiles
    .filter(({ instrument, price }) => instrument.kind === 'share' && instrument.venue === 'HALM' && !fixed.has(instrument.id) && price > 8 && price < 90)
    .filter(({ instrument }) => instrument.listsOn === null)
    .sort((a, b) => b.dailyVolume * b.price - a.dailyVolume * a.price)
    .slice(0, LIQUID);
  const sectors = new Set<string | null>();
  const held = liquid.filter(({ instrument: { sector } }) => sectors.size < HOLDINGS && !sectors.has(sector) && sectors.add(sector));
  return { traded: liquid.filter((one) => !held.includes(one)), held };
}

/**
 * What the demo's trader did on the days before the world begins: a buyer of pullbacks and a trader of pairs in MAIN,
 * a trader of opening breaks in EVAL, some evenings in NIGHT.
 *
 * @param days trading days, oldest first
 * @param fixed instruments that are to have no past
 */
export function* habits(world: DemoWorld, seed: number, days: readonly Day[], history: PastHistory, fixed: ReadonlySet<string>): Generator<Idea, void> {
  const { traded, held } = pools(world, fixed);
  const futures = world.profiles.filter(({ instrument }) => instrument.kind === 'future' && instrument.ticker.endsWith('-JUN26') && !fixed.has(instrument.id));
  const oversized = world.profiles.find(
    ({ instrument }) => instrument.kind === 'future' && instrument.ticker.startsWith('HALM40-') && !fixed.has(instrument.id),
  );
  const spots = world.profiles.filter(({ instrument, price }) => instrument.kind === 'spot' && !fixed.has(instrument.id) && price < 200);
  let tooLarge = 0;
  for (const [at, day] of days.entries()) {
    const chance = new Chance(seed, textKey('habits'), day);
    let count = 0;
    const scene = ({ instrument }: Profile): Scene | null => {
      const minutes = history.sessionOf(instrument.id, day);
      return minutes && { instrument, minutes, chance, name: `past-${at}-${++count}` };
    };
    const tried = (profile: Profile | undefined, habit: (scene: Scene) => Idea | null): Idea[] => {
      const seen = profile && scene(profile);
      const idea = seen && habit(seen);
      return idea ? [idea] : [];
    };
    const draw = (from: Profile[]): Profile => from.splice(chance.below(from.length), 1)[0] as Profile;
    const shares = [...traded];
    if (at > 0 && at % 4 === 0) yield* tried(held[at / 4 - 1], (seen) => holding(seen, 'MAIN'));
    for (let i = 0; i < 2 + (at % 2); i++) yield* tried(draw(shares), (seen) => pullback(seen, 'MAIN'));
    if (at % 3 === 1) {
      const first = draw(shares);
      const second = shares.find(({ instrument }) => instrument.sector === first.instrument.sector);
      // More often than not the wrong way round.
      const side = chance.next() < 0.5 ? 'buy' : 'sell';
      if (second)
        yield* [...tried(first, (seen) => pairLeg(seen, 'MAIN', side)), ...tried(second, (seen) => pairLeg(seen, 'MAIN', side === 'buy' ? 'sell' : 'buy'))];
    }
    const contracts = [...futures];
    if (at >= (OVERSIZED[tooLarge] ?? Infinity)) {
      const mood = tried(oversized, (seen) => oversizedBreak(seen, 'EVAL'));
      tooLarge += mood.length;
      yield* mood;
    }
    for (let i = 0; i < 3; i++) yield* tried(draw(contracts), (seen) => openingBreak(seen, 'EVAL'));
    if (chance.next() < 0.6) yield* tried(chance.pick(spots), (seen) => eveningDip(seen, 'NIGHT'));
  }
}

/** What happened to the accounts besides trading. */
export function housekeeping(days: readonly Day[], opens: (day: Day) => number): Act[] {
  const on = (at: number): number => opens(days[at] as Day) + 30 * MINUTE;
  return [
    { at: on(0), account: 'MAIN', kind: 'cash', cashKind: 'deposit', amount: '50000.00' },
    { at: on(LOCKED), account: 'EVAL', kind: 'lock', rule: 'dayLossLimit', until: on(LOCKED) + WEEK_MS },
    { at: on(45), account: 'MAIN', kind: 'cash', cashKind: 'withdrawal', amount: '1500.00' },
  ];
}
