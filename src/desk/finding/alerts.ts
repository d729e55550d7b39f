import type { Entry } from '../../core/desk/index.ts';
import { parseCondition } from '../../core/language/index.ts';
import { barStart, type Interval } from '../../core/market/index.ts';
import { NO_MEMORY, headlineHas, mayFire, type AlertEvent, type PriceLine } from '../../core/scan/index.ts';
import type { Headline } from '../../venue/messages.ts';
import type { Seen, Watch } from '../../prices/messages.ts';
import { presentAlert } from '../present/index.ts';
import type { FindingParts } from './parts.ts';
import { instrumentsNamed } from './named.ts';
import type { FindingChange } from './store.ts';
import type { Alert, AlertLine, AlertTerms, Firing } from './things.ts';

/** Firings that are told with an alert. */
const TOLD = 200;
const TOPIC = 'alerts';

interface Fired {
  readonly time: number;
  readonly value: string | null;
  readonly text: string;
}

/** The alerts of all traders: what is waited for, and what has come. */
export class Alerts {
  private readonly alerts = new Map<string, Alert>();
  private readonly firings = new Map<string, Firing[]>();
  private seq = 0;
  private made = 0;
  private newsUpTo = 0;
  private readonly parts: FindingParts;
  private readonly changed: () => Promise<void>;
  private over = new Set<string>();

  constructor(parts: FindingParts, changed: () => Promise<void>) {
    this.parts = parts;
    this.changed = changed;
  }

  load({ alerts, firings, marks }: { alerts: readonly Alert[]; firings: readonly Firing[]; marks: Readonly<Record<string, number>> }): void {
    // Those of before there were lines and scans have neither.
    for (const alert of alerts) this.alerts.set(alert.id, { ...NEITHER, ...alert });
    for (const firing of firings) this.keep(firing);
    this.made = marks['alerts'] ?? 0;
    this.newsUpTo = marks['news'] ?? 0;
  }

  of(user: string): Alert[] {
    return [...this.alerts.values()].filter((alert) => alert.user === user);
  }

  find(user: string, id: string): Alert | null {
    const found = this.alerts.get(id);
    return found?.user === user ? found : null;
  }

  firingsOf(id: string): readonly Firing[] {
    return this.firings.get(id) ?? [];
  }

  async make(user: string, terms: AlertTerms): Promise<Alert> {
    const alert: Alert = { ...terms, id: `alert-${++this.made}`, user, state: 'waiting', snoozedUntil: null, memory: NO_MEMORY };
    await this.parts.store.commit({ alerts: [alert], marks: { alerts: this.made, ...this.entriesMark() } });
    this.alerts.set(alert.id, alert);
    this.tell(alert);
    await this.changed();
    return this.alerts.get(alert.id) ?? alert;
  }

  /** Changes an alert; one that is told to wait for something else begins anew. */
  async change(alert: Alert, terms: Partial<AlertTerms>, snoozedUntil: number | null | undefined): Promise<Alert> {
    const other = (['instrument', 'price', 'line', 'scan', 'direction', 'phrase', 'account', 'words', 'event'] as const).some(
      (field) => terms[field] !== undefined && JSON.stringify(terms[field]) !== JSON.stringify(alert[field]),
    );
    const snoozed = snoozedUntil === undefined ? alert.snoozedUntil : snoozedUntil;
    const wakes = alert.state === 'snoozed' && snoozed === null;
    const ended = alert.state === 'ended' && !other && snoozedUntil === undefined;
    const next: Alert = {
      ...alert,
      ...terms,
      snoozedUntil: snoozed,
      state: ended ? 'ended' : snoozed !== null ? 'snoozed' : 'waiting',
      memory: other || wakes || alert.state === 'ended' ? NO_MEMORY : alert.memory,
    };
    await this.put(next);
    await this.changed();
    return this.alerts.get(alert.id) ?? next;
  }

  async drop(alert: Alert): Promise<void> {
    await this.parts.store.dropAlert(alert.id);
    this.alerts.delete(alert.id);
    this.firings.delete(alert.id);
    this.parts.desk.feed.hub.tellUser(TOPIC, alert.user, JSON.stringify({ id: alert.id, dropped: true }));
    await this.changed();
  }

  watches(): Watch[] {
    return this.waiting().flatMap((alert): Watch[] => {
      const { id, user, instrument, memory } = alert;
      if (instrument === null) return [];
      if (alert.kind === 'price' && alert.price !== null)
        return [{ id, user, instrument, memory, of: { kind: 'price', level: Number(alert.price), direction: alert.direction ?? 'either' } }];
      if (alert.kind === 'price' && alert.line !== null)
        return [{ id, user, instrument, memory, of: { kind: 'line', line: lineOf(alert.line), direction: alert.direction ?? 'either' } }];
      return alert.kind === 'condition' && alert.phrase !== null ? [{ id, user, instrument, memory, of: { kind: 'condition', phrase: alert.phrase } }] : [];
    });
  }

  instruments(): string[] {
    return this.watches().flatMap(({ instrument, of }) => [
      instrument,
      ...(of.kind === 'condition' ? instrumentsNamed(this.parts.desk.market, of.phrase) : []),
    ]);
  }

  nextMoment(): number | null {
    const moments = [...this.alerts.values()].flatMap((alert) =>
      alert.state === 'ended' ? [] : [alert.until, alert.snoozedUntil].filter((one) => one !== null),
    );
    return moments.length === 0 ? null : Math.min(...moments);
  }

  /** Ends what is over, wakes what was snoozed; whether another set is watched now. */
  async passed(time: number): Promise<boolean> {
    let changed = false;
    for (const alert of this.alerts.values()) {
      if (alert.state === 'ended') continue;
      if (alert.until !== null && alert.until <= time) await this.put({ ...alert, state: 'ended', snoozedUntil: null });
      else if (alert.snoozedUntil !== null && alert.snoozedUntil <= time) await this.put({ ...alert, state: 'waiting', snoozedUntil: null, memory: NO_MEMORY });
      else continue;
      changed = true;
    }
    return changed;
  }

  /** What was looked at: fires what was reached, and remembers. One commit for all of a row. */
  async seen(seen: readonly Seen[]): Promise<void> {
    const changes: Alert[] = [];
    const firings: Firing[] = [];
    for (const one of seen) {
      const alert = this.alerts.get(one.id);
      if (alert?.state !== 'waiting') continue;
      const fired = one.reached ? this.fire(alert, { time: one.time, value: one.value, text: this.textOf(alert, one.value) }, firings) : alert;
      changes.push({ ...fired, memory: one.memory });
    }
    await this.commit({ alerts: changes, firings });
  }

  /** Whether an alert ended by these: it is watched no more. */
  endedSince(seen: readonly Seen[]): boolean {
    const ended = seen.some(({ id }) => this.over.has(id));
    this.over = new Set();
    return ended;
  }

  async headlines(headlines: readonly Headline[]): Promise<void> {
    const firings: Firing[] = [];
    let changes = new Map<string, Alert>();
    for (const { seq, time, instrument, text } of headlines) {
      if (seq <= this.newsUpTo) continue;
      this.newsUpTo = seq;
      for (const alert of this.waiting()) {
        const now = changes.get(alert.id) ?? alert;
        if (now.kind !== 'news' || now.state !== 'waiting' || (now.instrument !== null && now.instrument !== instrument)) continue;
        if (headlineHas(text, now.words ?? []) !== null) changes = changes.set(alert.id, this.fire(now, { time, value: null, text }, firings));
      }
    }
    if (changes.size > 0) await this.commit({ alerts: [...changes.values()], firings, marks: { news: this.newsUpTo } });
    else if (headlines.length > 0 && this.waiting().some(({ kind }) => kind === 'news')) await this.parts.store.commit({ marks: { news: this.newsUpTo } });
  }

  /** What fires where a scan finds something new: to be committed with the run that found it. */
  scanned(user: string, scan: string, entered: readonly string[], time: number): FindingChange | null {
    const firings: Firing[] = [];
    const alerts = this.waiting().flatMap((alert) => {
      if (alert.user !== user || alert.kind !== 'scan' || alert.scan !== scan) return [];
      const text = `${scan}: ${listed(entered)} ${entered.length === 1 ? 'passes' : 'pass'} now.`;
      return [this.fire(alert, { time, value: String(entered.length), text }, firings)];
    });
    return firings.length === 0 ? null : { alerts, firings };
  }

  /** A change that was committed: kept here, and told. */
  committed({ alerts = [], firings = [] }: FindingChange): void {
    for (const alert of alerts) if (this.alerts.has(alert.id)) this.alerts.set(alert.id, alert);
    for (const firing of firings) this.keep(firing);
    const told = new Set(firings.map(({ alert }) => alert));
    for (const alert of alerts) if (told.has(alert.id)) this.tell(alert);
  }

  async markNews(seq: number): Promise<void> {
    this.newsUpTo = seq;
    await this.parts.store.commit({ marks: { news: seq } });
  }

  /** Whether an entry is one that an alert could be about. */
  wants({ data }: Entry): boolean {
    const told = data.kind === 'order-report' || data.kind === 'order-adjusted' || data.kind === 'risk' || data.kind === 'order-requested';
    return told && this.waiting().some(({ kind }) => kind === 'order' || kind === 'risk');
  }

  async entry(entry: Entry): Promise<void> {
    const event = eventOf(entry);
    if (!event) return;
    const owner = entry.account === null ? null : this.parts.desk.account(entry.account).terms.user;
    const firings: Firing[] = [];
    const changes: Alert[] = [];
    for (const alert of this.waiting()) {
      if (alert.user !== owner || alert.event !== event) continue;
      if ((alert.account !== null && alert.account !== entry.account) || (alert.instrument !== null && alert.instrument !== entry.instrument)) continue;
      changes.push(this.fire(alert, { time: entry.time, value: null, text: entry.text }, firings));
    }
    if (changes.length > 0) await this.commit({ alerts: changes, firings, marks: { entries: entry.seq } });
  }

  private waiting(): Alert[] {
    return [...this.alerts.values()].filter(({ state }) => state === 'waiting');
  }

  /** Activity before an alert was made is none of its business. */
  private entriesMark(): Record<string, number> {
    return { entries: this.parts.desk.lastEntry };
  }

  private fire(alert: Alert, { time, value, text }: Fired, firings: Firing[]): Alert {
    const before = this.firingsOf(alert.id);
    const lastAt = before[before.length - 1]?.time ?? null;
    if (!mayFire(alert.fires, alert.pauseSeconds, lastAt, time, (at) => this.barOf(alert, at))) return alert;
    firings.push({ seq: ++this.seq, alert: alert.id, user: alert.user, time, value, text });
    if (alert.fires !== 'once') return alert;
    this.over.add(alert.id);
    return { ...alert, state: 'ended', snoozedUntil: null };
  }

  private barOf(alert: Alert, time: number): number {
    const instrument = alert.instrument === null ? undefined : this.parts.desk.market.find(alert.instrument);
    return barStart(instrument?.venue ?? 'HALM', intervalIn(alert.phrase), time);
  }

  private textOf(alert: Alert, value: string | null): string {
    if (alert.kind === 'price') return `${alert.instrument} traded at ${value ?? '–'}: ${alert.price ?? 'the line'} is reached.`;
    return `${alert.instrument}: ${alert.phrase}${value === null ? '' : ` (${value})`}.`;
  }

  /** Commits, then tells. */
  private async commit(change: FindingChange): Promise<void> {
    const { alerts = [], firings = [] } = change;
    if (alerts.length + firings.length === 0) return;
    await this.parts.store.commit(change);
    this.committed(change);
  }

  private async put(alert: Alert): Promise<void> {
    await this.parts.store.commit({ alerts: [alert] });
    this.alerts.set(alert.id, alert);
    this.tell(alert);
  }

  private keep(firing: Firing): void {
    const list = this.firings.get(firing.alert) ?? [];
    list.push(firing);
    if (list.length > TOLD) list.shift();
    this.firings.set(firing.alert, list);
    this.seq = Math.max(this.seq, firing.seq);
  }

  private tell(alert: Alert): void {
    this.parts.desk.feed.hub.tellUser(TOPIC, alert.user, JSON.stringify(presentAlert(alert, this.firingsOf(alert.id))));
  }
}

const NEITHER = { line: null, scan: null };

const lineOf = ({ from, to }: AlertLine): PriceLine => ({
  from: { time: from.time, price: Number(from.price) },
  to: { time: to.time, price: Number(to.price) },
});

const MOST_LISTED = 8;
/** Instruments in a sentence; of many the first few and how many more. */
function listed(ids: readonly string[]): string {
  const rest = ids.length - MOST_LISTED;
  return rest > 0 ? `${ids.slice(0, MOST_LISTED).join(', ')} and ${rest} more` : ids.join(', ');
}

/** What an entry of the activity is to alerts. */
function eventOf({ data, history }: Entry): AlertEvent | null {
  if (data.kind === 'order-report' || data.kind === 'order-adjusted') {
    const { report } = data;
    if (report.kind === 'rejected') return 'rejected';
    if (report.kind === 'canceled') return 'canceled';
    if (report.kind !== 'trade') return null;
    return history?.state === 'filled' ? 'filled' : null;
  }
  if (data.kind === 'order-requested') return data.order.plan !== null && data.order.step !== null && data.order.heldBy === 'here' ? 'plan-fired' : null;
  return data.kind === 'risk' && (data.to.blocks?.length ?? 0) > 0 ? 'blocked' : null;
}

/** The interval that a phrase names first, a minute where it names none: bars that an alert fires once in. */
function intervalIn(phrase: string | null): Interval {
  if (phrase === null || !parseCondition(phrase).ok) return '1m';
  return (/ on (1m|2m|3m|5m|15m|30m|1h|4h|1d|1w)\b/.exec(phrase)?.[1] ?? '1m') as Interval;
}
