import { asHalves, asQuantity, formatQuantity, parseQuantity, tickAt, type Instrument, type Price, type Quantity } from '../core/instrument/index.ts';
import { MONEY_DECIMALS, formatMoney, formatScaled, money, plus, type Money } from '../core/number/index.ts';
import { commissionOf, marginFor, valueAt, type Market } from '../core/portfolio/index.ts';
import { instrumentOf, quoteOf, type ApiAccount } from '../live/index.ts';
import { lineFor } from './fees.ts';

/** What a size is worth beside it. */
export interface SizeWorth {
  /** At the ask, with its currency. */
  readonly value: string;
  /** What one tick makes on it, in EUR, of what is traded by its ticks: futures and options. */
  readonly tick: string | null;
  /** The largest quantity that the account could buy at the ask, fees included; null where that can't be told here. */
  readonly canBuy: string | null;
}

const BY_TICKS: ReadonlySet<string> = new Set(['future', 'option']);

type Wallets = Pick<ApiAccount, 'wallets' | 'buyingPower' | 'commission'>;

/** @returns null where the instrument has no ask, or the size is none of its quantities */
export function sizeWorth(instrument: Instrument, size: string, account: Wallets | undefined, market: AskedMarket): SizeWorth | null {
  const ask = market.ask(instrument.id);
  const quantity = parseQuantity(instrument, size);
  if (ask === null || quantity === null) return null;
  const currency = instrument.settlesIn;
  return {
    value: `${formatMoney(valueAt(instrument, quantity, ask), currency)} ${currency}`,
    tick: BY_TICKS.has(instrument.kind) ? formatScaled(valueAt(instrument, quantity, tickAt(instrument, ask)), MONEY_DECIMALS, 2) : null,
    canBuy: account ? canBuy(instrument, account, market, (many) => valueAt(instrument, many, ask)) : null,
  };
}

/** Marks, and what somebody would sell at now. */
export interface AskedMarket extends Market {
  ask(id: string): Price | null;
}

/** The market as this window hears it. */
export const HEARD: AskedMarket = {
  ask: (id) => quoteOf(id)?.ask ?? null,
  instrument: (id) => instrumentOf(id) as Instrument,
  mark: (id) => {
    const last = quoteOf(id)?.last ?? null;
    return last === null ? null : asHalves(last * 2);
  },
};

/** What an opening order can use: the wallet it is paid from, else the buying power. */
function roomOf(instrument: Instrument, { wallets, buyingPower }: Wallets): Money | null {
  if (instrument.kind !== 'spot' && instrument.kind !== 'inverse') return money(buyingPower);
  const purpose = instrument.kind === 'spot' ? 'spot' : 'contract';
  const wallet = wallets.find((one) => one.asset === (instrument.kind === 'spot' ? instrument.currency : instrument.settlesIn) && one.purpose === purpose);
  return wallet ? money(wallet.available) : null;
}

function canBuy(instrument: Instrument, account: Wallets, market: Market, valueOf: (many: Quantity) => Money): string | null {
  const room = roomOf(instrument, account);
  const schedule = lineFor(instrument, account);
  if (room === null || schedule === null) return null;
  const needs = (many: Quantity): Money => {
    const value = valueOf(many);
    return plus(marginFor(instrument, true, many, value, 'overnight', market) ?? value, commissionOf(schedule, instrument, many, value));
  };
  // What it needs only grows with the quantity.
  let [fits, over] = [0, 1];
  while (over < Number.MAX_SAFE_INTEGER / 4 && needs(asQuantity(over)) <= room) [fits, over] = [over, over * 2];
  while (over - fits > 1) {
    const half = Math.floor((fits + over) / 2);
    if (needs(asQuantity(half)) <= room) fits = half;
    else over = half;
  }
  return fits < instrument.minimumQuantity ? null : formatQuantity(instrument, asQuantity(fits));
}
