import { CashBook, Lots } from '../../core/backoffice/index.ts';
import { foldEntry, newAccountState, type AccountState, type Entry, type Touched, type Working } from '../../core/desk/index.ts';
import type { CurveFill, Position } from '../../core/portfolio/index.ts';
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
  readonly stopped: Stopped[];
  /** What it held as the trading day of each began, and its fills since. */
  readonly day: { readonly start: Map<string, Position>; fills: CurveFill[] };
}

/** A rule that began to block, or refused what was asked. */
export interface Stopped {
  readonly time: number;
  readonly rule: string;
  readonly blocks: boolean;
  readonly text: string;
}

/** The rule that began to block with an entry, or refused what was asked; null where none did. */
function stoppedBy({ time, text, data }: Entry, { risk }: AccountState): Stopped | null {
  if (data.kind === 'risk') {
    const began = (data.to.blocks ?? []).slice(risk.blocks.length)[0];
    return began ? { time, rule: began.rule, blocks: true, text } : null;
  }
  return data.kind === 'refused' && data.refusal.kind === 'risk-blocked' ? { time, rule: data.refusal.rule, blocks: false, text } : null;
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
      this.accounts.set(id, {
        state: newAccountState(terms),
        trips,
        lots: new Lots(instrumentOf),
        cash: new CashBook(terms, instrumentOf),
        stopped: [],
        day: { start: new Map(), fills: [] },
      });
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
    const { state, trips, lots, cash, stopped, day } = past;
    const before = state.book;
    const stop = stoppedBy(entry, state);
    if (stop) stopped.push(stop);
    const touched = foldEntry(state, entry, { instrument: (id) => this.desk.instrument(id), past: (id) => this.orders.get(id) ?? null });
    for (const working of touched.orders) this.orders.set(working.order.id, working);
    this.followDay(day, entry, touched, state);
    trips.take(entry, touched, state);
    lots.take(entry, touched);
    cash.take(entry, touched, before, state);
  }

  /** A day begins with what is held at its turn; the fills of a venue are its day's alone. */
  private followDay(day: AccountPast['day'], { data }: Entry, { orders, fills }: Touched, { book }: AccountState): void {
    for (const fill of fills) {
      const product = orders.find(({ order }) => order.id === fill.orderId)?.order.product ?? 'overnight';
      day.fills.push({ ...fill, product });
    }
    if (data.kind !== 'day-turn') return;
    const there = (id: string): boolean => this.desk.instrument(id).venue === data.venue;
    day.fills = day.fills.filter(({ instrument }) => !there(instrument));
    for (const id of [...day.start.keys()]) if (there(id)) day.start.delete(id);
    for (const position of Object.values(book.positions))
      if (position.quantity !== 0 && there(position.instrument)) day.start.set(position.instrument, position);
  }
}
