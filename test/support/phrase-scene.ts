import type { Instrument } from '../../src/core/instrument/index.ts';
import type { OrderScene, PhraseAccount } from '../../src/core/language/index.ts';
import type { Quote } from '../../src/core/market/index.ts';
import { money } from '../../src/core/number/index.ts';

/** One instrument as one account that has 100,000.00 and holds nothing reads it; what an order costs is not worked out anew. */
export function phraseScene(instrument: Instrument, quote: Quote, plans: readonly string[] = []): OrderScene {
  const cash = money('100000');
  const account: PhraseAccount = {
    id: 'MAIN',
    mayTrade: () => true,
    position: () => null,
    buyingPower: () => cash,
    equity: cash,
    fee: () => money('4'),
    needs: () => money('50'),
  };
  return {
    now: quote.time,
    accounts: new Map([['MAIN', account]]),
    account: 'MAIN',
    instrument: instrument.id,
    instrumentOf: (id) => (id === instrument.id ? instrument : undefined),
    listingsOf: (ticker) => (ticker === instrument.ticker ? [instrument] : []),
    quote: () => quote,
    plans: new Set(plans),
  };
}
