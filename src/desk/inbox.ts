import type { BrokerReport } from '../core/desk/index.ts';
import type { StreamItem } from '../venue/messages.ts';

/** How many missed reports are asked for at once. */
const ASKED_AT_ONCE = 1000;

/** An account's reports and price rows in their order, each once, however they come: those seen are dropped, a gap is asked for. */
export class Inbox {
  private readonly missed: (after: number, limit: number) => Promise<readonly BrokerReport[]>;
  private readonly deliver: (items: readonly StreamItem[]) => Promise<void>;
  private last = 0;
  /** What waits while a gap is filled, or before the account begins; null while nothing does. */
  private waiting: StreamItem[] | null = [];

  /**
   * @param missed asks the broker for reports after a number
   * @param deliver takes items in order, no report twice
   */
  constructor(missed: Inbox['missed'], deliver: Inbox['deliver']) {
    this.missed = missed;
    this.deliver = deliver;
  }

  /** Its newest report that was delivered. */
  get newest(): number {
    return this.last;
  }

  async receive(items: readonly StreamItem[]): Promise<void> {
    if (this.waiting) {
      this.waiting.push(...items);
      return;
    }
    const fresh: StreamItem[] = [];
    for (const [i, item] of items.entries()) {
      if (item.kind === 'report') {
        const { seq } = item.report;
        if (seq <= this.last) continue;
        if (seq > this.last + 1) {
          const ahead = fresh.length > 0 ? this.deliver(fresh) : Promise.resolve();
          this.waiting = items.slice(i);
          await ahead;
          return this.fill();
        }
        this.last = seq;
      }
      fresh.push(item);
    }
    if (fresh.length > 0) await this.deliver(fresh);
  }

  /** The broker's newest report has this number: if it was not heard, it is asked for. */
  async expect(seq: number): Promise<void> {
    if (this.waiting || seq <= this.last) return;
    this.waiting = [];
    await this.fill();
  }

  /** Begins anew after a report, and delivers what came since. */
  async beginAfter(seq: number): Promise<void> {
    this.waiting ??= [];
    this.last = seq;
    await this.fill();
  }

  private async fill(): Promise<void> {
    for (;;) {
      const missed = await this.missed(this.last, ASKED_AT_ONCE);
      const first = missed[0];
      if (!first) break;
      // What the broker has forgotten can't be had any more: reconciling looks at what it led to.
      this.last = missed[missed.length - 1]?.seq ?? this.last;
      await this.deliver(missed.map((report) => ({ kind: 'report', report })));
      if (missed.length < ASKED_AT_ONCE) break;
    }
    const waiting = this.waiting ?? [];
    this.waiting = null;
    const [next] = waiting.flatMap((item) => (item.kind === 'report' && item.report.seq > this.last ? [item.report.seq] : []));
    if (next !== undefined && next > this.last + 1) this.last = next - 1;
    await this.receive(waiting);
  }
}
