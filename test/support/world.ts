import { TAPE_ACCOUNTS as ACCOUNTS } from '../../demo/accounts.ts';
import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import type { CloseAmount, Fill, Intent } from '../../src/core/desk/index.ts';
import { parseTape } from '../../src/core/formats/index.ts';
import { parseQuantity, type Instrument } from '../../src/core/instrument/index.ts';
import { parseScaled } from '../../src/core/number/index.ts';
import { readChange, readOrder, type Order, type OrderRequest, type Refusal, type TermsText } from '../../src/core/orders/index.ts';
import { flatPosition, type AccountTerms } from '../../src/core/portfolio/index.ts';
import type { Result } from '../../src/core/result.ts';
import { Desk } from '../../src/desk/desk.ts';
import type { Outcome } from '../../src/desk/outcomes.ts';
import { presentAccount, presentOrder, presentPosition, type AccountAnswer, type OrderAnswer, type PositionAnswer } from '../../src/desk/present/index.ts';
import { VenueLink } from '../../src/start/venue-link.ts';
import { Exchange } from '../../src/venue/exchange.ts';
import type { FromVenue, ToVenue, VenueSettings } from '../../src/venue/messages.ts';
import type { OfferedIssue } from '../../src/venue/new-issues.ts';
import { TapeSource } from '../../src/venue/tape-source.ts';
import { VenueThread } from '../../src/venue/thread.ts';
import { MemoryDeskStore, MemoryVenueStore } from './stores.ts';

export const INSTRUMENTS = new Map(FIXED_INSTRUMENTS.map((instrument) => [instrument.id, instrument]));

export function instrument(id: string): Instrument {
  const found = INSTRUMENTS.get(id);
  if (!found) throw new Error(`no fixed instrument ${id}`);
  return found;
}

export const account = (id: string): AccountTerms => {
  const found = ACCOUNTS.find((one) => one.id === id);
  if (!found) throw new Error(`no account ${id}`);
  return found;
};

export const at = (clock: string): number => Date.parse(clock.includes('T') ? clock : `2026-03-02T${clock}Z`);

/** A tape as CSV from rows such as `09:00:01.000 GANET.HALM level ask 41.20 300`. */
export function tapeText(lines: readonly string[]): string {
  const rows = lines.map((line) => {
    const [time = '', id = '', event = '', ...rest] = line.split(' ');
    const stamp = time.includes('T') ? time : `2026-03-02T${time}Z`;
    switch (event) {
      case 'settlement':
        return `${stamp},${id},${event},,${rest[0]},,`;
      case 'state':
        return `${stamp},${id},${event},,,,${rest[0]}`;
      case 'price-limit':
        return `${stamp},${id},${event},,${rest[1] ?? ''},,${rest[0]}`;
      default:
        return `${stamp},${id},${event},${rest[0]},${rest[1]},${rest[2]},`;
    }
  });
  return `time,instrument,event,side,price,quantity,text\n${rows.join('\n')}\n`;
}

export function tapeOf(lines: readonly string[]): TapeSource {
  const read = parseTape(tapeText(lines), INSTRUMENTS);
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  return new TapeSource(read.value, INSTRUMENTS);
}

let asked = 0;
/** A limit buy of 100 GANET.HALM at 41.20 for MAIN, but for what is given. */
export const request = (given: Partial<OrderRequest> = {}): OrderRequest => ({
  clientOrderId: `t-${++asked}`,
  account: 'MAIN',
  instrument: 'GANET.HALM',
  side: 'buy',
  type: 'limit',
  quantity: '100',
  ...(given.type === undefined || given.type === 'limit' ? { limitPrice: '41.20' } : {}),
  ...given,
});

/** What strikes the way between desk and venue: a message that is known not to arrive, that vanishes, arrives twice, or late. */
export type WireFault = 'lost' | 'vanished' | 'doubled' | 'late' | null;

/** Brings a message after those before it, as a connection does: what is late holds up what follows, and is not overtaken. */
const carry = (before: Promise<void>, deliver: () => void, fault: WireFault): Promise<void> =>
  before.then(async () => {
    if (fault === 'late') await new Promise((done) => setTimeout(done, 3));
    deliver();
    if (fault === 'doubled') deliver();
  });

export interface WorldSettings {
  readonly latencyMs?: number;
  /** The trader has agreed to exits held here; he has unless it is said. */
  readonly consent?: boolean;
  /** New issues that the venue offers; none unless it is said. */
  readonly issues?: readonly OfferedIssue[];
  readonly desk?: MemoryDeskStore;
  readonly venue?: MemoryVenueStore;
}

/**
 * A desk on a tape, in this process: the real desk, the venue's real loop, stores in memory, and a wire between them
 * that can fail. Whatever is asked goes the way it goes from the API, but for HTTP.
 */
export class World {
  readonly exchange: Exchange;
  readonly deskStore: MemoryDeskStore;
  readonly venueStore: MemoryVenueStore;
  desk: Desk;
  private readonly lines: readonly string[];
  private readonly settings: WorldSettings;
  private readonly thread: VenueThread;
  private link: VenueLink | null = null;
  private outward = Promise.resolve();
  private inward = Promise.resolve();
  /** What a dead program answers nobody hears. */
  dead = false;
  /** Decides what happens to each message to the venue. */
  toVenue: (message: ToVenue) => WireFault = () => null;
  /** Decides what happens to each message to the desk. */
  toDesk: (message: FromVenue) => WireFault = () => null;
  /** Why the venue had to stop, if it had to. */
  unable: string | null = null;

  private constructor(lines: readonly string[], settings: WorldSettings) {
    this.lines = lines;
    this.settings = settings;
    this.deskStore = settings.desk ?? new MemoryDeskStore();
    this.venueStore = settings.venue ?? new MemoryVenueStore();
    const latencyMs = settings.latencyMs ?? 0;
    this.exchange = new Exchange(INSTRUMENTS, ACCOUNTS, tapeOf(lines), latencyMs, this.venueStore.load(), 0, settings.issues);
    const venueSettings: VenueSettings = { dataFolder: '', market: { kind: 'tape', file: '' }, seed: 1, clock: 'manual', latencyMs, notBefore: 0 };
    this.thread = new VenueThread(this.exchange, this.venueStore, venueSettings, (message) => this.tell(message), this.venueStore.clock);
    this.desk = null as unknown as Desk;
  }

  static async open(lines: readonly string[], settings: WorldSettings = {}): Promise<World> {
    const world = new World(lines, settings);
    await world.begin();
    return world;
  }

  private async begin(): Promise<void> {
    await this.thread.start();
    const { instruments } = this.exchange;
    const ready: FromVenue & { kind: 'ready' } = {
      kind: 'ready',
      instruments: [...instruments.values()],
      accounts: [...ACCOUNTS],
      clock: this.thread.clock(),
      link: this.thread.link,
    };
    this.link = new VenueLink({ post: (message) => this.post(message), close: () => Promise.resolve() }, ready);
    const { broker, prices, demo } = this.link;
    this.desk = new Desk(
      { broker, prices, demo, store: this.deskStore },
      { waitsForVenue: (this.settings.latencyMs ?? 0) === 0, consents: () => this.settings.consent ?? true },
    );
    await this.desk.open();
  }

  private post(message: ToVenue): void {
    if (this.dead) return;
    const fault = this.toVenue(message);
    const deliver = (): void => void (this.dead ? undefined : this.thread.receive(message));
    if (fault === 'vanished') {
      if ('id' in message) queueMicrotask(() => this.link?.receive({ kind: 'answer', id: message.id, answer: null }));
      return;
    }
    if (fault === 'lost') {
      // A message that can't be delivered is known to have failed, as on any connection.
      if ('id' in message) queueMicrotask(() => this.link?.receive({ kind: 'failed', id: message.id, message: 'lost on the way' }));
      return;
    }
    this.outward = carry(this.outward, deliver, fault);
  }

  private tell(message: FromVenue): void {
    if (message.kind === 'unable') this.unable = message.message;
    if (this.dead) return;
    const fault = this.toDesk(message);
    const deliver = (): void => void (this.dead ? undefined : this.link?.receive(message));
    if (fault === 'lost' || fault === 'vanished') {
      if (message.kind === 'stream' && message.token !== null) this.thread.receive({ call: 'resume', token: message.token });
      return;
    }
    this.inward = carry(this.inward, deliver, fault);
  }

  /** What is on the disks in this moment; what the dead would still do comes to nothing. */
  private async dying(): Promise<{ desk: MemoryDeskStore; venue: MemoryVenueStore }> {
    const [venue, desk] = [this.venueStore.fork(), this.deskStore.fork()];
    this.thread.receive({ call: 'stop', id: -1, ask: null });
    return { desk: await desk, venue };
  }

  /** Everything dies at once; what is in the stores is all that is left. */
  async kill(): Promise<World> {
    this.dead = true;
    this.desk.feed.stop();
    this.desk.market.stop();
    const killed = await this.dying();
    // The dead try nothing again.
    this.deskStore.fault = () => null;
    this.deskStore.silent = () => false;
    return World.open(this.lines, { ...this.settings, ...killed });
  }

  async close(): Promise<void> {
    if (this.dead) return;
    await this.desk.close();
    await this.link?.stop();
    this.dead = true;
  }

  /** Runs the clock to a time of the first day, or to a whole time. */
  async to(clock: string): Promise<this> {
    await this.desk.advance(at(clock));
    return this;
  }

  async place(given: Partial<OrderRequest> = {}): Promise<Result<Outcome, Refusal>> {
    const wanted = request(given);
    const read = readOrder(wanted, instrument(wanted.instrument));
    return read.ok ? this.desk.ask(wanted.account, { kind: 'place', order: read.value }) : read;
  }

  /** Places an order that must be taken, and gives its id. */
  async placed(given: Partial<OrderRequest> = {}): Promise<string> {
    return idOf(await this.place(given));
  }

  async replace(id: string, text: TermsText & { version?: number; clientOrderId?: string }): Promise<Result<Outcome, Refusal>> {
    const { version = null, clientOrderId = null, ...terms } = text;
    const order = await this.find(id);
    const read = readChange(terms, instrument(order.instrument), order.heldBy);
    return read.ok ? this.desk.ask(order.account, { kind: 'replace', orderId: id, change: read.value, version, clientOrderId }) : read;
  }

  async cancel(id: string): Promise<Result<Outcome, Refusal>> {
    return this.desk.ask((await this.find(id)).account, { kind: 'cancel', orderId: id });
  }

  ask(of: string, intent: Intent): Promise<Result<Outcome, Refusal>> {
    return this.desk.ask(of, intent);
  }

  closePosition(of: string, id: string, part: { quantity?: string; percent?: string; clientOrderId?: string } = {}): Promise<Result<Outcome, Refusal>> {
    const amount: CloseAmount =
      part.percent !== undefined
        ? { kind: 'percent', share: parseScaled(part.percent, 8) ?? 0n }
        : part.quantity !== undefined
          ? { kind: 'quantity', quantity: parseQuantity(instrument(id), part.quantity) as never }
          : { kind: 'all' };
    return this.desk.ask(of, { kind: 'close', instrument: id, amount, clientOrderId: part.clientOrderId ?? null });
  }

  flatten(of: string, id: string | null = null): Promise<Result<Outcome, Refusal>> {
    return this.desk.ask(of, { kind: 'flatten', instrument: id });
  }

  async find(id: string): Promise<Order> {
    const order = await this.desk.findOrder(id, [...this.desk.accounts.keys()]);
    if (!order) throw new Error(`no order ${id}`);
    return order;
  }

  /** An order as the API shows it. */
  async order(id: string): Promise<OrderAnswer> {
    const order = await this.find(id);
    const standing = await this.desk.standing(order.ended === null ? [id] : []);
    return presentOrder(instrument(order.instrument), order, standing.get(id) ?? null);
  }

  /** An order in a line: state, filled of quantity, why. */
  async shown(id: string): Promise<string> {
    const { state, filledQuantity, quantity, reasonCode } = await this.order(id);
    return `${state} ${filledQuantity}/${quantity}${reasonCode ? ` ${reasonCode}` : ''}`;
  }

  async money(of: string): Promise<AccountAnswer> {
    await this.desk.ensureMarks([of]);
    return presentAccount(this.desk.account(of), this.desk.market);
  }

  async position(of: string, id = 'GANET.HALM'): Promise<PositionAnswer> {
    await this.desk.ensureMarks([of]);
    const state = this.desk.account(of);
    return presentPosition(state, state.book.positions[id] ?? flatPosition(id, 0), this.desk.market, () => null);
  }

  fills(of = 'MAIN'): Promise<Fill[]> {
    return this.desk.listFills({ accounts: [of], limit: 1000 });
  }

  async orders(of = 'MAIN'): Promise<Order[]> {
    return (await this.desk.listOrders({ accounts: [of], limit: 1000 })).map(({ order }) => order);
  }
}

/** The order that was asked for; throws where it was refused. */
export function orderIn(done: Result<Outcome, Refusal>): Order {
  if (!done.ok) throw new Error(JSON.stringify(done.refusal));
  if (done.value.kind !== 'order') throw new Error('several orders were asked for');
  return done.value.order;
}

export const idOf = (done: Result<Outcome, Refusal>): string => orderIn(done).id;

/** Why something was refused, in a line: the kind, then what tells it best. */
export function refusedAs(done: Result<unknown, Refusal>): string {
  if (done.ok) return 'accepted';
  const { refusal } = done;
  switch (refusal.kind) {
    case 'validation':
      return `422 ${refusal.errors.map(({ path }) => path).join(' ')}`;
    case 'conflict':
      return '409';
    case 'risk-blocked':
      return `422 ${refusal.rule}`;
    case 'locked':
      return `423 ${refusal.rule}`;
    case 'venue-rejected':
      return '422 venue';
    case 'unavailable':
      return '503';
    case 'not-found':
      return '404';
    default:
      return refusal satisfies never;
  }
}
