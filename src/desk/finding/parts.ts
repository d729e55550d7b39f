import type { OwnLists, PricesCalls, ScanProgress } from '../../prices/messages.ts';
import type { Desk } from '../desk.ts';
import type { SavedStore } from '../saved.ts';
import type { FindingStore } from './store.ts';

/** The thread that looks at the prices. */
export interface PricesPort {
  ask<K extends keyof PricesCalls>(call: K, ask: PricesCalls[K]['ask']): Promise<PricesCalls[K]['answer']>;
  /** A scan whose progress can be asked for while it makes history; null where it was stopped. */
  scan(ask: PricesCalls['scan']['ask']): Promise<PricesCalls['scan']['answer']>;
  scanProgress(run: string): ScanProgress | null;
}

export interface FindingParts {
  readonly desk: Desk;
  readonly prices: PricesPort;
  readonly store: FindingStore;
  readonly saved: SavedStore;
}

/** What a trader holds, has working and lists, as conditions look at it. */
export async function ownLists(
  { desk, saved }: Pick<FindingParts, 'desk' | 'saved'>,
  user: string,
  accounts: readonly string[] = desk.accountsOf(user),
): Promise<OwnLists> {
  const held = new Set<string>();
  const withOrders = new Set<string>();
  for (const id of accounts) {
    const state = desk.account(id);
    for (const position of Object.values(state.book.positions)) if (position.quantity !== 0) held.add(position.instrument);
    for (const instrument of state.byInstrument.keys()) withOrders.add(instrument);
  }
  const lists: Record<string, readonly string[]> = {};
  for (const { name } of await saved.list(user, 'watchlist')) {
    const found = await saved.get(user, 'watchlist', name);
    lists[name] = ((found?.document as { rows?: { instrument?: string }[] } | undefined)?.rows ?? []).flatMap(({ instrument }) => instrument ?? []);
  }
  return { held: [...held], withOrders: [...withOrders], lists };
}
