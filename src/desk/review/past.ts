import { CashBook, Lots } from '../../core/backoffice/index.ts';
import { foldEntry, newAccountState, type AccountState, type Entry, type Working } from '../../core/desk/index.ts';
import { RoundTrips } from '../../core/review/index.ts';
import type { Desk } from '../desk.ts';
import { SerialQueue } from '../queue.ts';

const ENTRIES_AT_ONCE = 2000;

/** What an account's activity comes to, looked at from its end. */
export interface AccountPast {
  readonly state: AccountState;
  readonly trips: RoundTrips;
  readonly lots: Lots;
  readonly cash: CashBook;
  /** When its rules stopped or refused something, in words. */
  readonly stopped: { readonly time: number; readonly text: string }[];
}

/** Whether a rule began to block with an entry, or refused what was asked. */
function stops({ data }: Entry, { risk }: AccountState): boolean {
  if (data.kind === 'risk') return (data.to.blocks?.length ?? 0) > risk.blocks.length;
  return data.kind === 'refused' && data.refusal.kind === 'risk-blocked';
}

/** Reads the activity behind the desk: it is brought up to the newest entry whenever somebody asks. */
export class Past {
  private readonly desk: Pick<Desk, 'accounts' | 'instrument' | 'entriesAfter'>;
  private readonly queue = new SerialQueue();
  private readonly accounts = new Map<string, AccountPast>();
  private readonly orders = new Map<string, Working>();
  private upTo = 0;

  constructor(desk: Pick<Desk, 'accounts' | 'instrument' | 'entriesAfter'>) {
    this.desk = desk;
    const instrumentOf = (id: string) => desk.instrument(id);
    for (const [id, { terms }] of desk.accounts) {
      const trips = new RoundTrips(instrumentOf);
      this.accounts.set(id, { state: newAccountState(terms), trips, lots: new Lots(instrumentOf), cash: new CashBook(terms, instrumentOf), stopped: [] });
    }
  }

  /** The past of an account up to now. */
  async of(account: string): Promise<AccountPast> {
    const found = this.accounts.get(account);
    if (!found) throw new Error(`unknown account ${account}`);
    await this.queue.run(() => this.follow());
    return found;
  }

  all(): string[] {
    return [...this.accounts.keys()];
  }

  settled(): Promise<unknown> {
    return this.queue.idle();
  }

  private async follow(): Promise<void> {
    for (;;) {
      const entries = await this.desk.entriesAfter(this.upTo, ENTRIES_AT_ONCE);
      for (const entry of entries) this.take(entry);
      if (entries.length < ENTRIES_AT_ONCE) return;
    }
  }

  private take(entry: Entry): void {
    this.upTo = entry.seq;
    const past = entry.account === null ? undefined : this.accounts.get(entry.account);
    if (!past) return;
    const { state, trips, lots, cash, stopped } = past;
    const before = state.book;
    if (stops(entry, state)) stopped.push({ time: entry.time, text: entry.text });
    const touched = foldEntry(state, entry, { instrument: (id) => this.desk.instrument(id), past: (id) => this.orders.get(id) ?? null });
    for (const working of touched.orders) this.orders.set(working.order.id, working);
    trips.take(entry, touched, state);
    lots.take(entry, touched);
    cash.take(entry, touched, before, state);
  }
}
