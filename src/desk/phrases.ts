import { buyingPower, feeEstimate, tiedUpIn, type AccountState } from '../core/desk/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import { parseOrder, readOrderPhrase, subjectOf, caught, type OrderReading, type OrderScene, type PhraseAccount, type Read } from '../core/language/index.ts';
import { minus, moneyOf, plus } from '../core/number/index.ts';
import { inEuro, marginFor, mayTrade, valueAccount, valueAt, type Market } from '../core/portfolio/index.ts';
import type { Desk } from './desk.ts';

/** What a phrase acts on where it names nothing: the key target. */
export interface PhraseTarget {
  readonly account: string | null;
  readonly instrument: string | null;
}

/** Whose phrase it is: the trader's accounts, and the names of the saved exit plans. */
export interface PhraseOwner {
  readonly accounts: readonly string[];
  readonly plans: ReadonlySet<string>;
}

/** Reads an order phrase against the market as it is now. Nothing is sent. */
export async function readPhrase(desk: Desk, text: string, owner: PhraseOwner, target: PhraseTarget): Promise<Read<OrderReading>> {
  const scene = sceneOf(desk, owner, target);
  const parsed = parseOrder(text);
  if (!parsed.ok) return parsed;
  const subject = caught(() => subjectOf(parsed.value, text.length, scene));
  if (!subject.ok) return subject;
  const { account, instrument } = subject.value;
  await desk.ensureMarks([account.id]);
  if (instrument) await desk.market.ensure([instrument.id, ...(instrument.underlying === null ? [] : [instrument.underlying])]);
  return readOrderPhrase(text, scene);
}

/** The market and the accounts as order phrases look at them. */
export function sceneOf(desk: Desk, { accounts, plans }: PhraseOwner, target: PhraseTarget): OrderScene {
  return {
    now: desk.now(),
    accounts: new Map(accounts.map((id) => [id, accountOf(desk.account(id), desk.marks())])),
    ...target,
    instrumentOf: (id) => desk.market.find(id),
    listingsOf: (ticker) => desk.market.listings(ticker),
    quote: (id) => desk.quoteOf(id),
    plans,
  };
}

function accountOf(state: AccountState, market: Market): PhraseAccount {
  const fee: PhraseAccount['fee'] = (instrument, quantity, value) => feeEstimate(state, instrument, quantity, value);
  return {
    id: state.terms.id,
    mayTrade: (instrument) => mayTrade(state.terms, instrument),
    position: (id) => state.book.positions[id] ?? null,
    buyingPower: (instrument) => (instrument.kind === 'spot' ? availableOf(state, instrument, market) : buyingPower(state, market)),
    get equity() {
      return valueAccount(state.book, market).equity;
    },
    fee,
    needs: (instrument, long, quantity, price, product) => {
      const value = valueAt(instrument, quantity, price);
      const margin = marginFor(instrument, long, quantity, value, product, market);
      return margin === null ? null : inEuro(plus(margin, fee(instrument, quantity, value)), instrument.settlesIn, market);
    },
  };
}

/** What is available of the wallet that a spot pair is paid from. */
function availableOf(state: AccountState, { currency }: Instrument, market: Market): ReturnType<PhraseAccount['buyingPower']> {
  const wallet = state.book.wallets.find(({ asset, purpose }) => asset === currency && purpose === 'spot');
  return minus(wallet?.total ?? moneyOf(0n), tiedUpIn(state, currency, 'spot', market));
}
