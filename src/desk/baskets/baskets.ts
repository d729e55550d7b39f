import { isOver, partOf, type Pace, type RowState } from '../../core/basket/index.ts';
import { closingTerms, type Entry, type Working } from '../../core/desk/index.ts';
import { asHalves, asQuantity, type Halves, type Price, type Quantity, parseQuantity } from '../../core/instrument/index.ts';
import { orderState, refusalText, type OrderIntent, type Refusal } from '../../core/orders/index.ts';
import { accepted, refused, type Result } from '../../core/result.ts';
import { canonical } from '../../core/canonical.ts';
import type { StreamItem } from '../../venue/messages.ts';
import type { Desk } from '../desk.ts';
import type { Follower } from '../followers.ts';
import { SerialQueue } from '../queue.ts';
import { limitNow, readRow, type PlanNamed } from './read-row.ts';
import type { Basket, BasketStore, Run, RunRow } from './things.ts';

interface Parts {
  readonly desk: Desk;
  readonly store: BasketStore;
  readonly planOf: (user: string) => PlanNamed;
}

/** A row that waits to be sent, and its place in the run. */
interface Waiting {
  readonly i: number;
  readonly row: RunRow;
}

const NO_LINK: Refusal = { kind: 'unavailable', detail: 'There is no link to the broker. Nothing was sent or kept.' };
const FINISHED: Refusal = { kind: 'conflict', detail: 'The run is over.' };

/** Runs of baskets: rows become orders, in their order, at once or one by one; each order goes once, whatever happens meanwhile. */
export class Baskets implements Follower {
  private readonly runs = new Map<string, Run>();
  private readonly parts: Parts;
  private readonly queue = new SerialQueue();
  private made = 0;
  /** Which run an order belongs to. */
  private readonly byOrder = new Map<string, string>();
  private readonly dirty = new Set<string>();
  private up = true;

  constructor(parts: Parts) {
    this.parts = parts;
  }

  async open(): Promise<void> {
    for (const run of await this.parts.store.load()) {
      this.keep(run);
      this.made = Math.max(this.made, Number(run.id.replace(/^run-/, '')));
    }
    this.up = this.parts.desk.link.broker === 'up';
    this.parts.desk.followedBy(this);
    for (const run of this.runs.values()) if (isRunning(run)) this.dirty.add(run.id);
    await this.queue.run(() => this.goOn(true));
  }

  of(user: string, basket: string | null): Run[] {
    return [...this.runs.values()].filter((run) => run.user === user && (basket === null || run.basket === basket));
  }

  find(user: string, id: string): Run | null {
    const found = this.runs.get(id);
    return found?.user === user ? found : null;
  }

  /** Begins a run. The same id with the same content is the same run. */
  send(user: string, basket: Basket, percent: string, pace: Pace, clientRunId: string): Promise<Result<{ run: Run; made: boolean }, Refusal>> {
    return this.queue.run(async () => {
      const content = canonical({ basket: basket.name, percent: Number(percent), pace });
      const before = [...this.runs.values()].find((run) => run.user === user && run.clientRunId === clientRunId);
      if (before?.content === content) return accepted({ run: before, made: false });
      if (before) return refused<Refusal>({ kind: 'conflict', detail: `The run id ${clientRunId} was used before with other content. Use a new one.` });
      const { desk } = this.parts;
      if (desk.link.broker !== 'up') return refused(NO_LINK);
      await desk.market.ensure(basket.rows.map(({ instrument }) => instrument));
      const rows = basket.rows.map((row): RunRow => {
        const quantity = parseQuantity(desk.instrument(row.instrument), row.quantity) ?? asQuantity(0);
        const asked = partOf(quantity, percent, this.sentBefore(user, basket, row.id));
        const none = asked === 0;
        return {
          id: row.id,
          row,
          state: none ? 'skipped' : 'waiting',
          asked,
          orderId: null,
          reverseOrderId: null,
          arrival: null,
          limit: null,
          reason: none ? 'Nothing of it is left to send.' : null,
        };
      });
      const id = `run-${++this.made}`;
      const time = desk.now();
      const told = `Sends ${percent} % of ${basket.rows.length} rows, ${pace === 'at-once' ? 'at once' : 'one by one'}.`;
      const skipped = rows.filter(({ state }) => state === 'skipped').map((row) => ({ time, text: 'Skipped: nothing of it is left to send.', row: row.id }));
      const run: Run = {
        id,
        user,
        clientRunId,
        content,
        basket: basket.name,
        key: basket.key,
        percent,
        pace,
        state: 'sending',
        reversing: false,
        rows: pace === 'at-once' ? rows.map((row) => (row.state === 'waiting' ? this.priced(row) : row)) : rows,
        log: [{ time, text: told, row: null }, ...skipped],
      };
      await this.put(run);
      await this.advance(id);
      return accepted({ run: this.runs.get(id) ?? run, made: true });
    });
  }

  pause(run: Run): Promise<Result<Run, Refusal>> {
    return this.changed(run, async (now) => {
      await this.put(logged({ ...now, state: 'paused' }, this.parts.desk.now(), 'Paused: nothing more is sent.'));
    });
  }

  resume(run: Run): Promise<Result<Run, Refusal>> {
    return this.changed(run, async (now) => {
      if (now.state !== 'paused') return;
      await this.put(logged({ ...now, state: 'sending' }, this.parts.desk.now(), 'Goes on.'));
      await this.advance(now.id);
    });
  }

  /** Cancels what works and skips what was not sent; with `reverse` what was filled is then turned round. */
  cancel(run: Run, reverse: boolean): Promise<Result<Run, Refusal>> {
    return this.changed(run, async (now) => {
      const { desk } = this.parts;
      const rows = now.rows.map((row): RunRow => (row.state === 'waiting' ? { ...row, state: 'skipped', reason: 'The run was cancelled.' } : row));
      await this.put(
        logged(
          { ...now, rows, state: 'canceled', reversing: reverse, ending: true },
          desk.now(),
          reverse ? 'Cancelled, and what was filled is turned round.' : 'Cancelled.',
        ),
      );
      await this.advance(now.id);
    });
  }

  // What the market and the accounts bring.

  /** What an entry has begun is brought to its end before the market goes on: the next row's order with it. */
  async heard(items: readonly StreamItem[]): Promise<void> {
    if (items.length > 0) await this.queue.idle();
  }

  news(): void {
    // Headlines are no business of baskets.
  }

  entry({ orderId }: Entry): void {
    const run = orderId === null ? undefined : this.byOrder.get(orderId);
    if (run === undefined) return;
    this.dirty.add(run);
    void this.queue.run(() => this.goOn());
  }

  linked(up: boolean): Promise<void> {
    this.up = up;
    if (!up) return Promise.resolve();
    for (const run of this.runs.values()) if (isRunning(run)) this.dirty.add(run.id);
    return this.queue.run(() => this.goOn());
  }

  settled(): Promise<unknown> {
    return this.queue.idle();
  }

  snapshot(): Promise<unknown> {
    return Promise.resolve(null);
  }

  readonly armed = { instruments: [], wakeAt: null };

  /** Whether the next row of a run in an account waits for what becomes of the one before. */
  awaits(account: string): boolean {
    for (const run of this.runs.values())
      if ((run.reversing || (run.state === 'sending' && run.pace === 'one-by-one')) && run.rows.some(({ row }) => row.account === account)) return true;
    return false;
  }

  private async goOn(restarted = false): Promise<void> {
    const ids = [...this.dirty];
    this.dirty.clear();
    for (const id of ids) {
      if (restarted) await this.findSent(id);
      await this.advance(id);
    }
  }

  private changed(run: Run, work: (now: Run) => Promise<void>): Promise<Result<Run, Refusal>> {
    return this.queue.run(async () => {
      const now = this.runs.get(run.id) ?? run;
      if (now.state === 'done' || now.state === 'canceled') return refused(FINISHED);
      await work(now);
      return accepted(this.runs.get(run.id) ?? now);
    });
  }

  /** Orders that were made before a stop, of which that was not kept. */
  private async findSent(id: string): Promise<void> {
    const run = this.runs.get(id);
    if (!run) return;
    const rows: RunRow[] = [];
    for (const [i, row] of run.rows.entries()) {
      const [sent] = row.state === 'waiting' ? await this.parts.desk.ordersAsked([row.row.account], nameOf(run, i)) : [];
      const [turned] = run.reversing && row.reverseOrderId === null ? await this.parts.desk.ordersAsked([row.row.account], reverseName(run, i)) : [];
      const known: RunRow = sent ? { ...row, state: 'sent', orderId: sent.id } : row;
      rows.push(turned ? { ...known, reverseOrderId: turned.id } : known);
    }
    if (rows.some((row, i) => row !== run.rows[i])) await this.put({ ...run, rows });
  }

  /** Sends what can go now, turns round what is to be, and ends the run where all is over. */
  private async advance(id: string): Promise<void> {
    let run = this.runs.get(id);
    if (!run || !isRunning(run)) return;
    if (run.state === 'sending' && this.up) run = await this.sendRows(run);
    if (run.ending && this.up) await this.cancelRows(run);
    if (run.reversing) run = await this.reverseRows(run);
    const states = await Promise.all(run.rows.map((row) => this.stateOf(row)));
    if (run.state === 'sending' && states.every(isOver)) await this.put(logged({ ...run, state: 'done' }, this.parts.desk.now(), 'Done.'));
    else if (run.reversing && states.every(isOver) && (await this.areTurned(run.rows))) await this.put({ ...run, reversing: false, ending: false });
    else if (run.ending && !run.reversing && states.every(isOver)) await this.put({ ...run, ending: false });
  }

  /** Cancels what still works of a run that was cancelled: again, where the link was gone. */
  private async cancelRows({ rows }: Run): Promise<void> {
    const { desk } = this.parts;
    for (const { orderId, row } of rows) {
      const order = orderId === null ? null : desk.orderHere(orderId, row.account);
      if (order && !isOver(orderState(order)) && order.pendingCancel === null) await desk.cancel(row.account, order.id, 'basket');
    }
  }

  /** Whether what rows that are over have filled is turned round, or can't be. */
  private async areTurned(rows: readonly RunRow[]): Promise<boolean> {
    for (const row of rows)
      if (row.orderId !== null && row.reverseOrderId === null && row.reason !== TURNED_NOT && (await this.filledOf(row)) > 0) return false;
    return true;
  }

  private sendRows(run: Run): Promise<Run> {
    return run.pace === 'at-once' ? this.sendAll(run) : this.sendNext(run);
  }

  /** Sends what waits, each row when the one before is over. */
  private async sendNext(first: Run): Promise<Run> {
    let run = first;
    for (const [i, row] of first.rows.entries()) {
      if (row.state !== 'waiting') {
        if (!isOver(await this.stateOf(row))) return run;
        continue;
      }
      const next = await this.sendSome(run, [{ i, row: this.priced(row) }]);
      if (next === null) return run;
      run = next;
      await this.put(run);
      if (!isOver(await this.stateOf(run.rows[i] as RunRow))) return run;
    }
    return run;
  }

  /** Sends all that waits, in row order: what lies together in one account as one decision. */
  private async sendAll(first: Run): Promise<Run> {
    let run = first;
    const waiting = first.rows.flatMap((row, i) => (row.state === 'waiting' ? [{ i, row }] : []));
    for (let at = 0; at < waiting.length;) {
      const account = waiting[at]?.row.row.account;
      const other = waiting.findIndex(({ row }, k) => k > at && row.row.account !== account);
      const end = other < 0 ? waiting.length : other;
      const next = await this.sendSome(run, waiting.slice(at, end));
      if (next === null) break;
      run = next;
      at = end;
    }
    if (run !== first) await this.put(run);
    return run;
  }

  /** A row with the mid and the limit that it goes with. */
  private priced(row: RunRow): RunRow {
    const { desk } = this.parts;
    const limit = limitNow(desk, row.row);
    return { ...row, arrival: midOf(desk, row.row.instrument), limit: limit.ok ? limit.value : null };
  }

  /** Sends rows of one account; the run with what became of them, or null where there is no link. */
  private async sendSome(run: Run, rows: readonly Waiting[]): Promise<Run | null> {
    const { desk } = this.parts;
    const reads = await Promise.all(rows.map((one) => this.readWaiting(run, one)));
    const intents = reads.flatMap((read) => (read.ok ? [read.value.intent] : []));
    const asked = intents.length === 0 ? accepted([]) : await desk.placeMany(rows[0]?.row.row.account ?? '', intents);
    if (!asked.ok && asked.refusal.kind === 'unavailable') return null;
    let next = run;
    let at = 0;
    rows.forEach(({ i, row }, k) => {
      const read = reads[k] as (typeof reads)[number];
      const placed = !read.ok ? read : asked.ok ? (asked.value[at++] as Result<string, Refusal>) : asked;
      if (placed.ok && read.ok) next = withRow(next, i, { ...row, state: 'sent', orderId: placed.value, limit: read.value.limit });
      else if (!placed.ok) {
        const reason = refusalText(placed.refusal);
        next = logged(withRow(next, i, { ...row, state: 'refused', reason, arrival: null }), desk.now(), `Refused: ${reason}`, row.id);
      }
    });
    return next;
  }

  /** A row as the order that it becomes, with the limit that it goes with. */
  private async readWaiting(run: Run, { i, row }: Waiting): Promise<Result<{ intent: OrderIntent; limit: Price | null }, Refusal>> {
    const { desk, planOf } = this.parts;
    const limit = row.limit === null ? limitNow(desk, row.row) : accepted(row.limit);
    if (!limit.ok) return limit;
    const read = await readRow(row.row, desk.instrument(row.row.instrument), nameOf(run, i), planOf(run.user), { quantity: row.asked, limit: limit.value });
    return read.ok ? accepted({ intent: read.value, limit: limit.value }) : read;
  }

  private async reverseRows(first: Run): Promise<Run> {
    let run = first;
    for (const [i, row] of first.rows.entries()) {
      if (row.orderId === null || row.reverseOrderId !== null || !isOver(await this.stateOf(row))) continue;
      const filled = await this.filledOf(row);
      if (filled === 0 || row.reason === TURNED_NOT) continue;
      const answer = await this.parts.desk.place(row.row.account, this.reverseOf(run, i, row, filled));
      if (!answer.ok && answer.refusal.kind === 'unavailable') return run;
      run = answer.ok
        ? logged(withRow(run, i, { ...row, reverseOrderId: answer.value }), this.parts.desk.now(), 'Turned round what was filled.', row.id)
        : logged(withRow(run, i, { ...row, reason: TURNED_NOT }), this.parts.desk.now(), `Not turned round: ${refusalText(answer.refusal)}`, row.id);
      await this.put(run);
    }
    return run;
  }

  /** A market close of what a row filled, through zero where the position has become smaller meanwhile. */
  private reverseOf(run: Run, i: number, { row }: RunRow, filled: Quantity): OrderIntent {
    const { desk } = this.parts;
    const instrument = desk.instrument(row.instrument);
    const side = row.side === 'buy' ? 'sell' : 'buy';
    const position = desk.account(row.account).book.positions[row.instrument];
    const held = position?.quantity ?? 0;
    const against = held !== 0 && (side === 'sell') === held > 0;
    return {
      clientOrderId: reverseName(run, i),
      account: row.account,
      instrument: row.instrument,
      side,
      terms: closingTerms(instrument, side === 'sell', filled, { view: (id) => desk.market.view(id) }, 'day'),
      heldBy: 'venue',
      product: row.product ?? 'overnight',
      reduceOnly: null,
      crossesZero: against && filled > Math.abs(held),
      setup: null,
      exitPlan: null,
    };
  }

  private async stateOf(row: RunRow): Promise<RowState> {
    if (row.state !== 'sent' || row.orderId === null) return row.state as RowState;
    const working = await this.parts.desk.workingOrPast(row.orderId, row.row.account);
    return working ? orderState(working.order) : 'pending-new';
  }

  private async filledOf({ orderId, row }: RunRow): Promise<Quantity> {
    const working: Working | null = orderId === null ? null : await this.parts.desk.workingOrPast(orderId, row.account);
    return working?.order.filledQuantity ?? asQuantity(0);
  }

  /** What earlier runs of the basket as it is saved sent of a row: what they skipped or had refused they did not. */
  private sentBefore(user: string, { name, key }: Basket, row: string): Quantity {
    let sum = 0;
    for (const run of this.runs.values())
      if (run.user === user && run.basket === name && run.key === key)
        for (const one of run.rows) if (one.id === row && (one.state === 'sent' || one.state === 'waiting')) sum += one.asked;
    return asQuantity(sum);
  }

  private async put(run: Run): Promise<void> {
    await this.parts.store.put(run);
    this.keep(run);
    this.parts.desk.feed.hub.tellUser('baskets', run.user, JSON.stringify({ id: run.id, basket: run.basket, state: run.state }));
  }

  private keep(run: Run): void {
    this.runs.set(run.id, run);
    for (const { orderId, reverseOrderId } of run.rows) for (const id of [orderId, reverseOrderId]) if (id !== null) this.byOrder.set(id, run.id);
  }
}

const TURNED_NOT = 'It could not be turned round.';

const isRunning = ({ state, reversing, ending = false }: Run): boolean => state === 'sending' || state === 'paused' || reversing || ending;

const nameOf = ({ id }: Run, i: number): string => `kavix.${id}.${i}`;
const reverseName = (run: Run, i: number): string => `${nameOf(run, i)}.back`;

const withRow = (run: Run, i: number, row: RunRow): Run => ({ ...run, rows: run.rows.map((one, k) => (k === i ? row : one)) });
const logged = (run: Run, time: number, text: string, row: string | null = null): Run => ({ ...run, log: [...run.log, { time, text, row }] });

export function midOf(desk: Desk, instrument: string): Halves | null {
  const quote = desk.quoteOf(instrument);
  return quote?.bid === null || quote?.ask === null || !quote ? null : asHalves(quote.bid + quote.ask);
}
