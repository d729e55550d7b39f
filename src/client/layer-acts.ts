import {
  addTicks,
  asPrice,
  formatPrice,
  formatQuantity,
  gridCeil,
  gridFloor,
  parsePrice,
  parseQuantity,
  asQuantity,
  sizeOf,
  type Instrument,
  type Price,
} from '../core/instrument/index.ts';
import type { Side } from '../core/market/index.ts';
import { ghostAt, ghostRequest, type Ghost, type MarketView } from '../core/orders/index.ts';
import type { LiveOrder, LivePosition } from '../live/index.ts';
import type { GestureIntent } from './gestures/intent.ts';

/** What the layer's keys act on, as it is at this moment. */
export interface LayerFacts {
  readonly account: string;
  readonly instrument: Instrument;
  /** The chosen size, exact. */
  readonly size: string;
  readonly market: MarketView;
  /** Where it is aimed at; null where nothing is. */
  readonly aim: Price | null;
  readonly position: LivePosition | undefined;
  /** Working orders of the instrument in the account. */
  readonly working: readonly LiveOrder[];
  /** Ticks through the market that *take* and *hit* may go. */
  readonly through: number;
}

/** One key of the layer: what it would do now, in words, or why it can't. */
export interface LayerAct {
  readonly key: string;
  readonly name: string;
  readonly words: string;
  /** Null where it can't be done: the words say why. */
  readonly does: { readonly intents: readonly GestureIntent[]; readonly ghost: Ghost | null } | null;
}

type Done = Omit<LayerAct, 'key' | 'name'>;

const cannot = (words: string): Done => ({ words, does: null });
const acts = (words: string, ...intents: GestureIntent[]): Done => ({ words, does: { intents, ghost: null } });

function orderAt({ account, instrument, size, market }: LayerFacts, side: Side, price: Price | null, want: 'limit' | 'either', missing: string): Done {
  const quantity = parseQuantity(instrument, size);
  if (price === null) return cannot(missing);
  if (quantity === null) return cannot('no size is set');
  const ghost = ghostAt({ instrument, side, price, quantity, market, want });
  if (!ghost.ok) return cannot(ghost.refusal);
  return { words: ghost.value.words, does: { intents: [{ kind: 'place', wish: { account, ...ghostRequest(ghost.value, instrument) } }], ghost: ghost.value } };
}

const shifted = (instrument: Instrument, price: Price | null, ticks: number): Price | null => (price === null ? null : addTicks(instrument, price, ticks));

/** A position's average on the grid, in the direction of gain: a stop there comes out even. */
function evenPrice(instrument: Instrument, position: LivePosition): Price | null {
  const [whole = '', fraction = ''] = (position.averagePrice ?? '').split('.');
  const text = `${whole}.${fraction.slice(0, instrument.priceDecimals).padEnd(instrument.priceDecimals, '0')}`;
  const down = position.averagePrice === null ? null : parsePrice(instrument, text);
  if (down === null) return null;
  const exact = /^0*$/.test(fraction.slice(instrument.priceDecimals));
  if (position.units.quantity < 0) return gridFloor(instrument, down);
  return gridCeil(instrument, exact ? down : asPrice(down + 1));
}

const breakEven = (facts: LayerFacts): Done => stopsToEven(facts, 0);

/** Moves the stops of a position to its average on the grid, so many ticks further in the direction of gain. */
export function stopsToEven({ instrument, position, working }: Pick<LayerFacts, 'instrument' | 'position' | 'working'>, plusTicks: number): Done {
  if (!position || position.units.quantity === 0) return cannot('no position');
  const even = evenPrice(instrument, position);
  const price = even && addTicks(instrument, even, position.units.quantity < 0 ? -plusTicks : plusTicks);
  const stops = working.filter((order) => !order.opening && order.stopPrice !== null && order.triggeredAt === null);
  if (price === null || stops.length === 0) return cannot('no stop to move');
  const text = formatPrice(instrument, price);
  return acts(
    `${stops.length === 1 ? 'its stop' : `${stops.length} stops`} to ${text}`,
    ...stops.map((order): GestureIntent => ({ kind: 'change', order, change: { stopPrice: text } })),
  );
}

function closing({ account, instrument, position }: LayerFacts): { close: Done; reverse: Done } {
  if (!position || position.units.quantity === 0) return { close: cannot('no position'), reverse: cannot('no position') };
  const held = position.quantity.replace('-', '');
  const verb = position.units.quantity < 0 ? 'buys' : 'sells';
  const twice = formatQuantity(instrument, asQuantity(2 * sizeOf(position.units.quantity)));
  const of = { account, instrument: instrument.id } as const;
  return {
    close: acts(`${verb} ${held} at market`, { kind: 'close', ...of }),
    reverse: instrument.kind === 'spot' ? cannot('spot can’t be reversed') : acts(`${verb} ${twice} at market`, { kind: 'reverse', ...of }),
  };
}

function entries({ working }: LayerFacts): Done {
  const opening = working.filter((order) => order.opening && order.state !== 'pending-cancel');
  return opening.length === 0
    ? cannot('no entry works')
    : acts(`cancels ${opening.length}; exits stay`, ...opening.map((order): GestureIntent => ({ kind: 'cancel', order })));
}

/** Every key of the layer but the sizes, each with what it would do now. */
export function layerActs(facts: LayerFacts): LayerAct[] {
  const { account, instrument, market, aim, through } = facts;
  const { close, reverse } = closing(facts);
  const of = (key: string, name: string, done: Done): LayerAct => ({ key, name, ...done });
  const noAim = 'aim first: pointer or ↑ ↓';
  return [
    of('b', 'buy', orderAt(facts, 'buy', aim, 'either', noAim)),
    of('s', 'sell', orderAt(facts, 'sell', aim, 'either', noAim)),
    of('t', 'take', orderAt(facts, 'buy', shifted(instrument, market.ask, through), 'limit', 'no ask')),
    of('h', 'hit', orderAt(facts, 'sell', shifted(instrument, market.bid, -through), 'limit', 'no bid')),
    of('j', 'join', orderAt(facts, 'buy', market.bid, 'limit', 'no bid')),
    of('o', 'offer', orderAt(facts, 'sell', market.ask, 'limit', 'no ask')),
    of('c', 'close', close),
    of('r', 'reverse', reverse),
    of('e', 'even', breakEven(facts)),
    of('x', 'cancel', entries(facts)),
    of('f', 'flatten', acts(`flattens ${instrument.ticker}`, { kind: 'flatten', account, instrument: instrument.id })),
    of('Shift+f', 'flatten', acts(`flattens all of ${account}`, { kind: 'flatten', account, instrument: null })),
  ];
}
