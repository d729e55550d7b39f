import type { BrokerCommand, BrokerReport, Lodged, Settlement } from '../core/desk/index.ts';
import { asQuantity, type Instrument, type Price, type Quantity, type VenueId } from '../core/instrument/index.ts';
import { formatDay, tradingDay } from '../core/market/index.ts';
import { NO_MONEY, minus, plus, type Money } from '../core/number/index.ts';
import type { Order } from '../core/orders/index.ts';
import {
  applicationMoved,
  bookAgreed,
  bookApplication,
  bookCash,
  bookDayTurn,
  bookInForce,
  cashMoved,
  commissionInForce,
  commissionOf,
  openAccount,
  type AccountTerms,
  type Application,
  type CashRequest,
  type Commission,
  type NewIssue,
} from '../core/portfolio/index.ts';
import type { HeldAccount, Said } from './held.ts';
import { allotted, asApplied, asTold, takenBack, type OfferedIssue } from './new-issues.ts';

/** A command that is about money or new issues, and touches no order. */
export type MoneyCommand = BrokerCommand & { readonly kind: 'cash' | 'cash-back' | 'application' | 'application-back' };

/** Shares that an application was given. */
export interface Allotment {
  readonly instrument: Instrument;
  readonly quantity: Quantity;
  readonly price: Price;
}

/** The stand-in broker's customers: their books, their money, what they agreed to and apply for, and the count of what they are told. */
export class Customers {
  readonly accounts = new Map<string, HeldAccount>();
  /** Accounts that changed since they were last saved. */
  readonly changed = new Set<string>();
  /** Market time: it comes with each call to the broker. */
  time = 0;
  private readonly terms = new Map<string, AccountTerms>();
  private readonly instrument: (id: string) => Instrument;
  private readonly issues: ReadonlyMap<string, OfferedIssue>;
  private readonly report: (report: BrokerReport) => void;

  constructor(
    accounts: readonly AccountTerms[],
    issues: readonly OfferedIssue[],
    instrument: (id: string) => Instrument,
    report: (report: BrokerReport) => void,
  ) {
    this.issues = new Map(issues.map((issue) => [issue.id, issue]));
    this.instrument = instrument;
    this.report = report;
    for (const account of accounts) {
      this.terms.set(account.id, account);
      this.accounts.set(account.id, { book: openAccount(account), seq: 0, forgotten: 0, highest: 0 });
    }
  }

  /** @throws Error where there is no such account */
  get(id: string): HeldAccount {
    const found = this.accounts.get(id);
    if (!found) throw new Error(`unknown account ${id}`);
    return found;
  }

  /**
   * Tells an account's desk something.
   *
   * @returns the number of the report that says it
   */
  say(account: string, said: Said): number {
    const held = this.get(account);
    this.changed.add(account);
    this.report({ account, seq: ++held.seq, time: this.time, ...said });
    return held.seq;
  }

  /** Notes a request's number: the highest one is told to a desk that comes back. */
  count(account: string, number: number): void {
    const held = this.get(account);
    if (number <= held.highest) return;
    held.highest = number;
    this.changed.add(account);
  }

  /**
   * Agrees to a line of commission; it is charged from its day on.
   *
   * @returns the number of the report that says so
   */
  agree(account: string, line: Commission): number {
    const held = this.get(account);
    held.book = bookAgreed(held.book, line);
    return this.say(account, { kind: 'commission', line });
  }

  /** Keeps locked rules; what it has it gives out only after their time. */
  lodge(account: string, lodged: Lodged): void {
    this.get(account).lodged = lodged;
    this.changed.add(account);
  }

  /** The new issues that are offered by now, without what is not told yet. */
  newIssues(time: number): NewIssue[] {
    return [...this.issues.values()].filter(({ opensAt }) => opensAt <= time).map((issue) => asTold(issue, time));
  }

  handle(command: MoneyCommand): void {
    const { cash, applications } = this.get(command.account);
    switch (command.kind) {
      case 'cash':
        if (!cash?.some(({ id }) => id === command.request.id)) this.keepCash(command.account, { ...command.request, requestedAt: this.time });
        break;
      case 'cash-back': {
        const found = cash?.find(({ id }) => id === command.cashRequestId);
        if (found?.state === 'requested') this.keepCash(command.account, { ...found, state: 'canceled' });
        break;
      }
      case 'application':
        this.keepApplication(asApplied(applications, command.application, this.issues, this.time));
        break;
      case 'application-back':
        this.keepApplication(takenBack(applications, command.applicationId, this.issues, this.time));
        break;
      default:
        command satisfies never;
    }
  }

  /** A request for money as it stands by now, with what that moves in cash. */
  private keepCash(account: string, request: CashRequest): void {
    const held = this.get(account);
    held.book = bookCash(held.book, cashMoved(request, request.state));
    held.cash = [...(held.cash ?? []).filter(({ id }) => id !== request.id), request];
    this.say(account, { kind: 'cash', request });
  }

  /** An application as it stands by now, with what that moves in cash; null changes nothing. */
  private keepApplication(application: Application | null): void {
    if (!application) return;
    const held = this.get(application.account);
    const before = held.applications?.find(({ id }) => id === application.id) ?? null;
    held.book = bookApplication(held.book, applicationMoved(this.instrument(application.issue), before, application));
    held.applications = [...(held.applications ?? []).filter(({ id }) => id !== application.id), application];
    this.say(application.account, { kind: 'application', application });
  }

  /** Books the turn of an account's day at a venue. */
  turnDay(account: string, venue: VenueId, settlements: readonly Settlement[]): void {
    const held = this.get(account);
    const settled = settlements.map(({ instrument, price }) => ({ instrument: this.instrument(instrument), settlement: price }));
    held.book = bookDayTurn(held.book, this.time, settled);
    this.say(account, { kind: 'day-turn', venue, day: tradingDay(venue, this.time), settlements });
  }

  /** Whether an account's own day begins with a venue's; what was agreed for it is in force then. */
  beginDay(account: string, venue: VenueId): boolean {
    const terms = this.terms.get(account);
    if (terms?.venues[0] !== venue) return false;
    const held = this.get(account);
    held.book = bookInForce(terms, held.book, formatDay(tradingDay(venue, this.time)));
    return true;
  }

  /** Decides the applications for what is allotted at a venue by now; what each is given is to be delivered before the next. */
  *allot(account: string, venue: VenueId): Generator<Allotment> {
    for (const application of this.get(account).applications ?? []) {
      const issue = this.issues.get(application.issue);
      if (!issue || this.instrument(issue.id).venue !== venue) continue;
      const decided = allotted(application, issue, this.time);
      this.keepApplication(decided);
      if (decided?.allottedLots)
        yield { instrument: this.instrument(issue.id), quantity: asQuantity(decided.allottedLots * issue.lot), price: issue.outcome.price };
    }
  }

  /** Pays what was asked for. */
  payOut(account: string): void {
    for (const request of this.get(account).cash ?? [])
      if (request.state === 'requested') this.keepCash(account, { ...request, state: 'paid', paidAt: this.time });
  }

  /** What a fill of an order costs by the commission in force. */
  feeOf(order: Order, instrument: Instrument, quantity: Quantity, value: Money): Money {
    const terms = this.terms.get(order.account);
    const line = terms && commissionInForce(terms, this.get(order.account).book).find((one) => one.kind === instrument.kind);
    if (!line) return NO_MONEY;
    const whole = commissionOf(line, instrument, asQuantity(order.filledQuantity + quantity), plus(order.filledValue, value));
    // Where commission fell since the order's first fill, nothing is given back.
    return whole < order.fees ? NO_MONEY : minus(whole, order.fees);
  }
}
