import type { Instrument } from '../core/instrument/index.ts';
import { baseAsset } from '../core/portfolio/index.ts';
import type { ApiAccount, ApiOrder } from '../live/index.ts';

/** What there is of one thing in an account, as the API tells it, and what ties some of it up. */
export interface Balance {
  readonly key: string;
  readonly account: string;
  readonly what: string;
  readonly total: string;
  readonly tiedUp: string;
  readonly available: string;
  /** The total in EUR at the mark. */
  readonly inEur: string;
  /** The working orders that tie something up, in words. */
  readonly by: readonly string[];
}

/** The order as far as it ties up money: what is left of it. */
type Tying = Pick<ApiOrder, 'account' | 'instrument' | 'side' | 'remainingQuantity' | 'opening'>;
type Known = Pick<Instrument, 'id' | 'kind' | 'ticker' | 'currency' | 'settlesIn'>;

/** Which wallet an order ties something up in, where its account has wallets; null where it ties up nothing. */
function walletOf({ side, opening }: Tying, instrument: Known): { asset: string; purpose: 'spot' | 'contract' } | null {
  if (instrument.kind === 'spot' && side === 'sell') return { asset: baseAsset(instrument), purpose: 'spot' };
  if (!opening) return null;
  return instrument.kind === 'inverse' ? { asset: instrument.settlesIn, purpose: 'contract' } : { asset: instrument.currency, purpose: 'spot' };
}

const said = ({ side, remainingQuantity, instrument }: Tying): string => `${side} ${remainingQuantity} ${instrument}`;

/** What an account has, its cash and buying power or each of its wallets, with the orders that tie it up. */
export function balancesOf(account: ApiAccount, working: readonly Tying[], instrumentOf: (id: string) => Known | undefined): Balance[] {
  const { id, currency, cash, marginUsed, buyingPower, equity, wallets, marginCall } = account;
  const orders = working.filter((order) => order.account === id);
  if (wallets.length === 0) {
    const by = orders.filter(({ opening }) => opening).map(said);
    const row = (key: string, what: string, total: string): Balance => ({
      key: `${id} ${key}`,
      account: id,
      what,
      total,
      tiedUp: marginUsed,
      available: buyingPower,
      inEur: total,
      by,
    });
    return [row('cash', `${currency}, cash`, cash), row('equity', `${currency}, equity${marginCall ? ': MARGIN CALL, no opening' : ''}`, equity)];
  }
  return wallets.map(({ asset, purpose, total, tiedUp, available, inEur }) => {
    const by = orders.filter((order) => {
      const instrument = instrumentOf(order.instrument);
      const of = instrument ? walletOf(order, instrument) : null;
      return of?.asset === asset && of.purpose === purpose;
    });
    return { key: `${id} ${asset} ${purpose}`, account: id, what: `${asset}, ${purpose}`, total, tiedUp, available, inEur, by: by.map(said) };
  });
}
