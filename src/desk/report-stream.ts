import type { BrokerReport } from '../venue/messages.ts';

/** The broker's reports in their order, each once, however they come: those seen are dropped, a gap is asked for. */
export class ReportStream {
  private readonly missed: (after: number) => Promise<BrokerReport[]>;
  private readonly deliver: (reports: readonly BrokerReport[]) => void;
  private last = 0;
  /** Reports that wait while a gap is filled; null while there is none. */
  private waiting: BrokerReport[] | null = [];

  /**
   * @param missed asks the broker for all reports after a number
   * @param deliver takes reports in rising order, none twice
   */
  constructor(missed: (after: number) => Promise<BrokerReport[]>, deliver: (reports: readonly BrokerReport[]) => void) {
    this.missed = missed;
    this.deliver = deliver;
  }

  receive(reports: readonly BrokerReport[]): void {
    if (this.waiting) {
      this.waiting.push(...reports);
      return;
    }
    const fresh = reports.filter((report) => report.seq > this.last).sort((a, b) => a.seq - b.seq);
    const first = fresh[0];
    if (!first) return;
    if (first.seq > this.last + 1) {
      this.waiting = [...fresh];
      void this.fill();
      return;
    }
    this.last = fresh[fresh.length - 1]?.seq ?? this.last;
    this.deliver(fresh);
  }

  /** Begins anew after a report, and delivers what came since. */
  async beginAfter(seq: number): Promise<void> {
    this.waiting ??= [];
    this.last = seq;
    await this.fill();
  }

  private async fill(): Promise<void> {
    const missed = await this.missed(this.last);
    const waiting = this.waiting ?? [];
    this.waiting = null;
    this.receive([...missed, ...waiting.filter((report) => report.seq > (missed[missed.length - 1]?.seq ?? 0))]);
  }
}
