import {
  armedInstruments,
  commandOf,
  decide,
  followedInstruments,
  hasRules,
  keepFollowing,
  keepPlan,
  needsOf,
  type AccountEvent,
  type AccountState,
  type Answer,
  type BrokerCommand,
  type Decision,
  type Entry,
  type Lodged,
  type Needs,
} from '../core/desk/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import type { Refusal } from '../core/orders/index.ts';
import type { StreamItem } from '../venue/messages.ts';
import type { GatheredFacts } from './facts.ts';
import { Inbox } from './inbox.ts';
import type { Ledger } from './ledger.ts';
import type { Broker } from './outside.ts';
import { pause, WRITE_AGAIN_MS } from './patience.ts';
import { SerialQueue } from './queue.ts';

const LOG_DOWN: Refusal = { kind: 'unavailable', detail: 'The activity log could not be written. Nothing was sent or kept.' };
const LOG_UNCERTAIN: Refusal = {
  kind: 'unavailable',
  detail: 'The activity log did not answer: it is not known yet whether this was kept. Its client order id tells later.',
};
const NOT_LODGED: Refusal = { kind: 'unavailable', detail: 'The broker did not take the lock. Nothing was locked or changed.' };

const REPORTS_AT_ONCE = 500;
/** Reports that are written before the broker may forget them. */
const REPORTS_AN_ACKNOWLEDGEMENT = 200;
const TRIES_TO_AGREE = 40;

/** What was reported and can't be applied is a bug: going on without it would be wrong, a start from the log applies it anew. */
const endProgram = (error: unknown): void =>
  void setImmediate(() => {
    throw error;
  });

/** What an account's own desk stands on. */
export interface AccountParts {
  /** As the log has it. */
  readonly state: AccountState;
  readonly broker: Broker;
  readonly ledger: Ledger;
  readonly instrument: (id: string) => Instrument;
  readonly gather: (needs: Needs) => Promise<GatheredFacts>;
  readonly send: (commands: readonly BrokerCommand[]) => void;
  /** What it waits on may be another by now. */
  readonly rearm: () => void;
  /** Whether something besides its own exits and rules must follow before the market goes on. */
  readonly awaited: () => boolean;
}

/**
 * The one writer of an account: what happens and what is asked is decided in its queue, one after the other; every
 * decision is committed before it is sent, every report applied once and in order.
 */
export class AccountDesk {
  /** Instruments whose rows it waits on. */
  waitsOn: ReadonlySet<string>;
  private readonly parts: AccountParts;
  private readonly state: AccountState;
  private readonly queue = new SerialQueue();
  private readonly inbox: Inbox;
  /** Heard and not yet applied. */
  private readonly pending: StreamItem[] = [];
  private acknowledged = 0;

  constructor(parts: AccountParts) {
    this.parts = parts;
    this.state = parts.state;
    this.waitsOn = armedInstruments(parts.state);
    this.inbox = new Inbox(
      (after, limit) => parts.broker.reportsAfter(this.state.terms.id, after, limit),
      (items) => this.heard(items),
    );
  }

  /** Resolves when all that was received so far has been applied. */
  idle(): Promise<unknown> {
    return this.queue.idle();
  }

  /** Decides what was asked, writes what was decided, then sends what follows from it. */
  perform(event: AccountEvent): Promise<Answer> {
    return new Promise((resolve, reject) => {
      this.queue.run(() => this.performNow(event, resolve)).catch(reject);
    });
  }

  /** Something that nobody asked for: decided for sure. */
  happened(event: AccountEvent): Promise<void> {
    return this.queue.run(async () => this.follow(await this.performForSure(event)));
  }

  /** The broker's newest report has this number: what is missing is asked for. */
  expect(seq: number): Promise<void> {
    return this.inbox.expect(seq);
  }

  /** What it hears of a message: its own reports, and the rows it waits on. */
  receive(items: readonly StreamItem[]): Promise<void> {
    const account = this.state.terms.id;
    const isMine = (item: StreamItem): boolean =>
      item.kind === 'timer' || (item.kind === 'report' ? item.report.account === account : this.waitsOn.has(item.row.instrument));
    const mine = items.filter(isMine);
    return mine.length === 0 ? Promise.resolve() : this.inbox.receive(mine);
  }

  /** Makes the account and the broker agree. */
  async reconcile(): Promise<void> {
    const { state, inbox, queue } = this;
    for (let tries = 0; ; tries++) {
      await inbox.beginAfter(state.lastReport);
      await queue.idle();
      const agreed = await queue.run(async () => {
        const theirs = await this.parts.broker.status(state.terms.id);
        // Reports on their way are heard first; one that the broker has forgotten never comes.
        const awaited = theirs.lastSeq > state.lastReport && theirs.forgotten <= state.lastReport && tries < TRIES_TO_AGREE;
        if (awaited) return false;
        await this.performForSure({ kind: 'reconciled', theirs });
        return true;
      });
      if (agreed) break;
    }
    await inbox.beginAfter(state.lastReport);
  }

  private needsOf(event: AccountEvent): Needs {
    return needsOf(this.state, event, this.parts.instrument);
  }

  private async performNow(event: AccountEvent, answer: (answer: Answer) => void): Promise<void> {
    const facts = await this.parts.gather(this.needsOf(event));
    const decision = decide(this.state, event, facts);
    if (decision.lodge && !(await this.lodged(decision.lodge))) return answer({ kind: 'refused', refusal: NOT_LODGED });
    const appended = await this.parts.ledger.append(decision.entries);
    if (appended.kind === 'lost') return answer({ kind: 'refused', refusal: LOG_DOWN });
    let entries: readonly Entry[] | null = null;
    if (appended.kind === 'kept') entries = appended.entries;
    else {
      answer({ kind: 'refused', refusal: LOG_UNCERTAIN });
      entries = await appended.settled;
    }
    if (entries) {
      this.carryOut(entries, decision, facts);
      await this.follow(entries);
    }
    answer(decision.answer);
  }

  /** Whether the broker has locked rules for good. */
  private lodged(lodged: Lodged): Promise<boolean> {
    return this.parts.broker.lodge(this.state.terms.id, lodged).then(
      () => true,
      () => false,
    );
  }

  private async gatherForSure(event: AccountEvent): Promise<GatheredFacts> {
    const needs = this.needsOf(event);
    for (;;) {
      const facts = await this.parts.gather(needs).catch(() => null);
      if (facts) return facts;
      await pause(WRITE_AGAIN_MS);
    }
  }

  /** What has happened can't be refused: it is written, however often that has to be tried. */
  private async performForSure(event: AccountEvent): Promise<readonly Entry[]> {
    for (;;) {
      const facts = await this.gatherForSure(event);
      const decision = decide(this.state, event, facts);
      const entries = await this.parts.ledger.written(decision.entries);
      if (entries) {
        this.carryOut(entries, decision, facts);
        // What was lodged otherwise there is written back.
        if (decision.lodge) await this.lodged(decision.lodge);
        return entries;
      }
      await pause(WRITE_AGAIN_MS);
    }
  }

  /**
   * Lets exit plans and rules follow what happened, until nothing more comes of it.
   *
   * @param whole false where more of the same event is still to come: the rules look at it as a whole
   */
  private async follow(entries: readonly Entry[], whole = true): Promise<void> {
    for (let more = entries, first = true; first || more.length > 0; first = false) {
      const instruments = followedInstruments(this.state, more);
      const arranged = instruments.length > 0 ? await this.performForSure({ kind: 'arranged', instruments }) : [];
      const judged = whole && hasRules(this.state) ? await this.performForSure({ kind: 'judged' }) : [];
      more = [...arranged, ...judged];
    }
  }

  /** Applies what is written, and sends what follows from it. What can't be sent now is looked at when reconciling. */
  private carryOut(entries: readonly Entry[], { following = [], followingOrders = [] }: Decision, facts: GatheredFacts): void {
    const { state } = this;
    this.parts.ledger.apply(entries, facts.pastOrders);
    for (const plan of following) keepPlan(state, plan);
    for (const order of followingOrders) keepFollowing(state, order);
    if (entries.length === 0) return;
    if (state.plans.size + state.here.size + this.waitsOn.size > 0 || hasRules(state)) {
      this.waitsOn = armedInstruments(state);
      this.parts.rearm();
    }
    const commands = entries.flatMap((entry) => commandOf(entry, state) ?? []);
    if (commands.length > 0) this.parts.send(commands);
  }

  /** Takes items in order. Only where something could follow from them does anybody wait for it. */
  private heard(items: readonly StreamItem[]): Promise<void> {
    const { state } = this;
    this.pending.push(...items);
    const done = this.queue.run(() => this.applyPending());
    done.catch(endProgram);
    const awaited = state.plans.size + state.here.size > 0 || hasRules(state) || this.parts.awaited();
    return awaited ? done : Promise.resolve();
  }

  private async applyPending(): Promise<void> {
    const { pending, state } = this;
    while (pending.length > 0) {
      const first = pending[0] as StreamItem;
      if (first.kind !== 'report') {
        pending.shift();
        await this.follow(await this.performForSure(first.kind === 'price' ? { kind: 'priced', row: first.row } : { kind: 'timer' }));
        if (first.kind === 'timer') this.parts.rearm();
        continue;
      }
      const reports = [];
      for (let next = pending[0]; next?.kind === 'report' && reports.length < REPORTS_AT_ONCE; next = pending[0]) {
        reports.push(next.report);
        pending.shift();
      }
      const entries = await this.performForSure({ kind: 'reported', reports });
      // The row that led to these fills comes right after them.
      await this.follow(entries, pending[0]?.kind !== 'price');
    }
    if (state.lastReport - this.acknowledged >= REPORTS_AN_ACKNOWLEDGEMENT) {
      this.acknowledged = state.lastReport;
      void this.parts.broker.acknowledge([{ account: state.terms.id, seq: state.lastReport }]).catch(() => undefined);
    }
  }
}
