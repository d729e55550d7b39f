import { formatPrice, formatQuantity, asQuantity, isInverse, type Instrument } from '../core/instrument/index.ts';
import { expiryTime, type Quote } from '../core/market/index.ts';
import { dividendYieldAt, optionTerms, payoffOf, readOption, yearsBetween, type OptionReading, type PayoffLeg } from '../core/options/index.ts';
import { decimalText } from '../core/number/index.ts';
import type { options, ShapeOf } from '../schemas/shapes.ts';
import { averageText } from './present/text.ts';
import type { Desk } from './desk.ts';

/** The continuous rate that options are valued with. */
export const RATE = 0.02;

type Chain = ShapeOf<typeof options.chain>;
type Cell = Chain['rows'][number]['call'];

/** A double as the API tells it: 10 significant digits. */
const said = (value: number | null): string | null => (value === null || !Number.isFinite(value) ? null : decimalText(value));

/** Sums of money keep more: what a leg adds may be small beside what it cost. */
const money = (value: number | null): string | null => (value === null || !Number.isFinite(value) ? null : decimalText(value, 15));

const priceOf = (instrument: Instrument, units: number): number => units / 10 ** instrument.priceDecimals;

/** The mark of an underlying in whole currency; null where there is none. */
function spotOf(desk: Desk, underlying: Instrument): number | null {
  const mark = desk.marks().mark(underlying.id);
  return mark === null ? null : priceOf(underlying, mark) / 2;
}

const midOf = (instrument: Instrument, quote: Quote | undefined): number | null =>
  quote?.bid === null || quote?.ask === null || !quote ? null : priceOf(instrument, quote.bid + quote.ask) / 2;

/** The options of an underlying that have not ended, by expiry. */
export function expiriesOf(desk: Desk, underlying: string): Map<string, Instrument[]> {
  const found = new Map<string, Instrument[]>();
  for (const one of desk.market.all()) {
    if (one.kind !== 'option' || one.underlying !== underlying || one.expiry === null || (expiryTime(one) ?? 0) <= desk.now()) continue;
    found.set(one.expiry, [...(found.get(one.expiry) ?? []), one]);
  }
  return new Map([...found].sort(([a], [b]) => (a < b ? -1 : 1)));
}

/** The chain of an underlying at an expiry, the nearest by default. */
export async function chainOf(desk: Desk, underlying: Instrument, wanted: string | null, accounts: readonly string[]): Promise<Chain> {
  const expiries = expiriesOf(desk, underlying.id);
  const expiry = wanted ?? [...expiries.keys()][0] ?? null;
  const listed = expiry === null ? [] : (expiries.get(expiry) ?? []);
  await desk.market.ensure([underlying.id, ...listed.map(({ id }) => id)]);
  const spot = spotOf(desk, underlying);
  const dividendYield = spot === null ? null : dividendYieldAt(underlying, spot);
  const end = listed[0] ? expiryTime(listed[0]) : null;
  const years = end === null ? null : yearsBetween(desk.now(), end);
  const cell = (option: Instrument | undefined): Cell => {
    if (!option) return null;
    const quote = desk.quoteOf(option.id);
    const mid = midOf(option, quote);
    const { impliedVolatility, value } = readOption(optionTerms(option, { spot, years, rate: RATE, dividendYield }), mid);
    const held = accounts.reduce((sum, account) => sum + (desk.account(account).book.positions[option.id]?.quantity ?? 0), 0);
    const price = (units: number | null | undefined): string | null => (units === null || units === undefined ? null : formatPrice(option, units as never));
    return {
      instrument: option.id,
      bid: price(quote?.bid),
      ask: price(quote?.ask),
      last: price(quote?.last),
      volume: quote ? formatQuantity(option, quote.volume) : null,
      mid: said(mid),
      impliedVolatility: said(impliedVolatility),
      delta: said(value?.delta ?? null),
      gamma: said(value?.gamma ?? null),
      theta: said(value?.theta ?? null),
      vega: said(value?.vega ?? null),
      position: formatQuantity(option, asQuantity(held)),
    };
  };
  const strikes = [...new Set(listed.flatMap(({ strike }) => strike ?? []))].sort((a, b) => a - b);
  const at = (strike: number, right: 'call' | 'put'): Instrument | undefined => listed.find((one) => one.strike === strike && one.right === right);
  return {
    underlying: underlying.id,
    spot: said(spot),
    rate: said(RATE) ?? '0',
    dividendYield: said(dividendYield),
    expiries: [...expiries.keys()],
    expiry,
    years: said(years),
    rows: strikes.map((strike) => ({
      strike: formatPrice(listed[0] as Instrument, strike),
      call: cell(at(strike, 'call')),
      put: cell(at(strike, 'put')),
    })),
  };
}

/** One contract as its mid reads it just now. */
function readNow(desk: Desk, option: Instrument, spot: number | null, dividendYield: number | null): OptionReading {
  const end = expiryTime(option);
  const years = end === null ? null : yearsBetween(desk.now(), end);
  return readOption(optionTerms(option, { spot, years, rate: RATE, dividendYield }), midOf(option, desk.quoteOf(option.id)));
}

type Greeks = Readonly<Record<'delta' | 'gamma' | 'theta' | 'vega', number>>;
/** What moves as the underlying does. */
const STRAIGHT: Greeks = { delta: 1, gamma: 0, theta: 0, vega: 0 };

/** What the user holds of an underlying and of its options and futures: the legs, and their greeks together, in units of the underlying and EUR. */
export async function heldOf(desk: Desk, underlying: Instrument, accounts: readonly string[]): Promise<ShapeOf<typeof options.held>> {
  const positions = accounts.flatMap((account) =>
    Object.values(desk.account(account).book.positions).flatMap((position) => {
      const instrument = desk.instrument(position.instrument);
      const follows = instrument.id === underlying.id || instrument.underlying === underlying.id;
      return follows && position.quantity !== 0 && !isInverse(instrument) ? [{ account, position, instrument }] : [];
    }),
  );
  await desk.market.ensure([underlying.id, ...positions.map(({ instrument }) => instrument.id)]);
  const spot = spotOf(desk, underlying);
  const dividendYield = spot === null ? null : dividendYieldAt(underlying, spot);
  const each = positions.map(({ position, instrument }) => ({
    greeks: instrument.kind === 'option' ? readNow(desk, instrument, spot, dividendYield).value : STRAIGHT,
    units: (position.quantity / 10 ** instrument.quantityDecimals) * instrument.multiplier,
  }));
  const sum = (greek: keyof Greeks): string | null =>
    said(each.reduce<number | null>((total, { greeks, units }) => (total === null || !greeks ? null : total + greeks[greek] * units), 0));
  return {
    underlying: underlying.id,
    legs: positions.map(({ account, position, instrument }) => ({
      account,
      instrument: instrument.id,
      quantity: formatQuantity(instrument, position.quantity),
      price: averageText(instrument, position.quantity, position.cost) ?? '0',
    })),
    delta: sum('delta'),
    gamma: sum('gamma'),
    theta: sum('theta'),
    vega: sum('vega'),
  };
}

/** A volatility moved by percentage points; it is never below a thousandth of a point. */
const shifted = (volatility: number, points: number): number => (points === 0 ? volatility : Math.max(1e-5, volatility + points / 100));

export interface LegAsked {
  readonly instrument: string;
  readonly quantity: string;
  readonly price: string;
}

/** What legs make; null where the underlying has no mark. */
export async function payoffAsked(
  desk: Desk,
  underlying: Instrument,
  legs: readonly LegAsked[],
  at: number | null,
  volatilityShift = 0,
): Promise<ShapeOf<typeof options.payoff> | null> {
  await desk.market.ensure([underlying.id, ...legs.map(({ instrument }) => instrument)]);
  const spot = spotOf(desk, underlying);
  if (spot === null) return null;
  const dividendYield = dividendYieldAt(underlying, spot);
  const made = legs.map(({ instrument: id, quantity, price }): PayoffLeg => {
    const instrument = desk.instrument(id);
    const end = expiryTime(instrument);
    const own = { quantity: Number(quantity), unit: instrument.multiplier, price: Number(price) };
    if (instrument.kind !== 'option' || end === null || instrument.strike === null || instrument.right === null) return { ...own, option: null };
    const { impliedVolatility } = readNow(desk, instrument, spot, dividendYield);
    return {
      ...own,
      option: {
        right: instrument.right,
        strike: priceOf(instrument, instrument.strike),
        expiresAt: end,
        volatility: impliedVolatility === null ? null : shifted(impliedVolatility, volatilityShift),
      },
    };
  });
  const { points, breakEvens, worst, best } = payoffOf(made, spot, at ?? desk.now(), RATE, dividendYield);
  return {
    points: points.map((point) => ({ spot: said(point.spot) ?? '0', atExpiry: money(point.atExpiry) ?? '0', atDate: money(point.atDate) })),
    breakEvens: breakEvens.map((price) => said(price) ?? '0'),
    worst: money(worst),
    best: money(best),
  };
}
