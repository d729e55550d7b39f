import type { MarketRow } from '../core/desk/index.ts';
import type { Instrument } from '../core/instrument/index.ts';
import { parseCondition, readConditionWords } from '../core/language/index.ts';
import { barEnd, barStart, tradingDay, type Interval } from '../core/market/index.ts';
import { decimalText } from '../core/number/index.ts';
import {
  LineMemory,
  MarketColumns,
  TRUE,
  UNKNOWN,
  compileCondition,
  eventsOf,
  isNews,
  levelSeen,
  lineLevel,
  runScan,
  type CompiledCondition,
  type ConditionScene,
  type EventMemory,
  type ScanMemory,
  type OwnThings,
  type WatchMemory,
} from '../core/scan/index.ts';
import type { LookRequest, MarketLook } from '../venue/messages.ts';
import type { ConditionAnswer, OwnLists, PricesCall, PricesCalls, ScanAsk, ScanProgress, Seen, Watch, Watched } from './messages.ts';

/** Where the market is looked at. */
export interface MarketSight {
  look(request: LookRequest): Promise<MarketLook>;
}

/** Instruments looked at in one question while their history is made: between two others are heard. */
const AT_ONCE = 40;
/** Phrases that are kept ready. */
const MOST_COMPILED = 2000;

interface Watching {
  readonly watch: Watch;
  readonly place: number;
  readonly condition: CompiledCondition | null;
  readonly events: EventMemory;
  memory: WatchMemory;
}

const ownThings = ({ held, withOrders, lists }: OwnLists): OwnThings => ({
  held: new Set(held),
  withOrders: new Set(withOrders),
  lists: new Map(Object.entries(lists).map(([name, ids]) => [name, new Set(ids)])),
});

const NOTHING: OwnLists = { held: [], withOrders: [], lists: {} };

/**
 * Looks at the prices for those who search them: conditions read alone, scans over a universe, and what is watched
 * row by row. It holds the columns of the whole universe; only what is found leaves it.
 */
export class Finder {
  private readonly scene: ConditionScene & { readonly byTicker: ReadonlyMap<string, readonly Instrument[]> };
  private readonly sight: MarketSight;
  /** What scans look at: brought up to date by each. */
  private readonly columns: MarketColumns;
  private readonly looked = new Map<string, { day: number; bars: Map<Interval, { count: number; at: number }> }>();
  /** What is followed row by row. */
  private readonly live: MarketColumns;
  private readonly liveBars = new Map<string, Map<Interval, number>>();
  private readonly upTo = new Map<string, number>();
  private readonly days = new Map<string, number>();
  private watching = new Map<string, Watching>();
  private readonly kept = new Map<string, { readonly memory: ScanMemory; changes: number }>();
  private readonly compiled = new Map<string, CompiledCondition>();
  private number = 0;
  private turn: Promise<unknown> = Promise.resolve();

  private readonly stopped = new Set<string>();
  private readonly tell: (run: string, progress: ScanProgress) => void;

  /** @param tell hears how far the history is that a scan makes */
  constructor(instruments: readonly Instrument[], sight: MarketSight, tell: Finder['tell'] = () => undefined) {
    this.sight = sight;
    this.tell = tell;
    this.columns = new MarketColumns(instruments);
    this.live = new MarketColumns(instruments);
    const byId = new Map(instruments.map((one) => [one.id, one]));
    const byTicker = new Map<string, Instrument[]>();
    for (const one of instruments) byTicker.set(one.ticker, [...(byTicker.get(one.ticker) ?? []), one]);
    this.scene = { byTicker, instrumentOf: (id) => byId.get(id), listingsOf: (ticker) => byTicker.get(ticker) ?? [], fits: () => true };
  }

  /** Questions are answered one after the other: what is watched and what it sees never overtake one another. */
  answer<K extends keyof PricesCalls>(call: K, ask: PricesCalls[K]['ask']): Promise<PricesCalls[K]['answer']> {
    // Heard at once, also while pieces of a scan wait for their turn.
    if (call === 'stop') this.stopped.add((ask as PricesCalls['stop']['ask']).run);
    if (call === 'scan') return this.scanInPieces(ask as ScanAsk);
    return this.inTurn(() => this.answerNow(call, ask));
  }

  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }

  private answerNow(call: Exclude<PricesCall, 'scan'>, ask: unknown): Promise<never> {
    switch (call) {
      case 'stop':
        return Promise.resolve(null as never);
      case 'condition':
        return this.read(ask as PricesCalls['condition']['ask']) as Promise<never>;
      case 'forget':
        this.kept.delete((ask as PricesCalls['forget']['ask']).kept);
        return Promise.resolve(null as never);
      case 'watch':
        return this.watch(ask as PricesCalls['watch']['ask']) as Promise<never>;
      case 'rows':
        return this.rows(ask as PricesCalls['rows']['ask']) as Promise<never>;
      default:
        return call satisfies never;
    }
  }

  private async read({ phrase, instrument, own }: PricesCalls['condition']['ask']): Promise<ConditionAnswer> {
    const parsed = parseCondition(phrase);
    if (!parsed.ok) return parsed;
    const made = compileCondition(parsed.value, this.scene);
    if (!made.ok) return made;
    const { canonical, condition, lists, passing } = made.value;
    const told = { canonical, reading: readConditionWords(condition), lists, passing };
    if (instrument === null) return { ok: true, value: { ...told, value: null, parts: [] } };
    await this.bring([instrument, ...made.value.instruments], made.value);
    const scope = { columns: this.columns, own: ownThings(own), memory: null };
    const i = this.columns.place.get(instrument) ?? -1;
    const truth = made.value.evaluate(scope, i);
    const parts = made.value.parts.map((part) => ({ from: part.from, to: part.to, value: part.value(scope, i) }));
    return { ok: true, value: { ...told, value: truth === UNKNOWN ? null : truth === TRUE, parts } };
  }

  /** A scan that needs history makes it a few instruments at a time: between two of these others are heard, and it can be stopped. */
  private async scanInPieces(ask: ScanAsk): Promise<PricesCalls['scan']['answer']> {
    const { universe, lines, run } = ask;
    const made = lines.map(({ phrase, on }) => ({ condition: this.compile(phrase), on }));
    const ids = [...new Set([...universe, ...made.flatMap(({ condition }) => condition.instruments)])];
    const bars = needsOf(made.map(({ condition }) => condition));
    const cold = ids.length <= AT_ONCE ? [] : ids.filter((id) => this.isCold(id, bars));
    if (run !== null) this.stopped.delete(run);
    for (let from = 0; from < cold.length; from += AT_ONCE) {
      if (run !== null) this.tell(run, { done: from, of: cold.length });
      await this.inTurn(() => this.look(cold.slice(from, from + AT_ONCE), bars, null));
      // Whoever stops it is heard before the next piece.
      await new Promise((resolve) => setImmediate(resolve));
      if (run !== null && this.stopped.delete(run)) return null;
    }
    return this.inTurn(() => this.scan(ask, made, ids));
  }

  private async scan(
    { universe, join, own, kept, unlessSame }: ScanAsk,
    made: readonly { readonly condition: CompiledCondition; readonly on: boolean }[],
    ids: readonly string[],
  ): Promise<PricesCalls['scan']['answer']> {
    await this.bring(ids, ...made.map(({ condition }) => condition));
    const known = (kept !== null && this.kept.get(kept)) || { memory: made.map(() => new LineMemory()), changes: -1 };
    if (unlessSame && known.changes === this.columns.changes) return 'same';
    known.changes = this.columns.changes;
    if (kept !== null) this.kept.set(kept, known);
    const memory = kept === null ? null : known.memory;
    const places = universe.flatMap((id) => this.columns.place.get(id) ?? []);
    return { at: this.columns.now, outcome: runScan(made, join, this.columns, places, ownThings(own), memory) };
  }

  /** A phrase that was read before. */
  private compile(phrase: string): CompiledCondition {
    const known = this.compiled.get(phrase);
    if (known) return known;
    const parsed = parseCondition(phrase);
    const made = parsed.ok ? compileCondition(parsed.value, this.scene) : parsed;
    if (!made.ok) throw new Error(`${phrase}: ${made.error.message}`);
    if (this.compiled.size >= MOST_COMPILED) this.compiled.clear();
    this.compiled.set(phrase, made.value);
    return made.value;
  }

  /** Brings what scans look at up to now, all of one moment; history that is not there yet is made first, a few at a time. */
  private async bring(ids: readonly string[], ...conditions: readonly CompiledCondition[]): Promise<void> {
    const bars = needsOf(conditions);
    const cold = ids.filter((id) => this.isCold(id, bars));
    if (ids.length <= AT_ONCE && cold.length > 0) return this.look(ids, bars, null);
    for (let from = 0; from < cold.length; from += AT_ONCE) await this.look(cold.slice(from, from + AT_ONCE), bars, null);
    const since = Math.min(...ids.flatMap((id) => bars.map(({ interval }) => this.looked.get(id)?.bars.get(interval)?.at ?? Infinity)), this.columns.now);
    await this.look(ids, bars, since);
  }

  /** Whether something of an instrument is not known yet, or belongs to a day that is over. */
  private isCold(id: string, bars: LookRequest['bars']): boolean {
    const known = this.looked.get(id);
    const instrument = this.scene.instrumentOf(id);
    if (!known || !instrument) return true;
    return known.day !== tradingDay(instrument.venue, this.columns.now) || bars.some(({ interval, count }) => (known.bars.get(interval)?.count ?? 0) < count);
  }

  private async look(ids: readonly string[], bars: LookRequest['bars'], since: number | null): Promise<void> {
    const look = await this.sight.look(lookInto(this.columns, ids, bars, since)).catch((error: Error) => {
      // The table may have been written into, and nobody says where.
      this.columns.touch(ids.flatMap((id) => this.columns.place.get(id) ?? []));
      throw error;
    });
    const { time, places } = look;
    this.columns.now = time;
    takeLook(this.columns, look);
    for (const place of places) {
      const { id, venue } = this.columns.instruments[place] as Instrument;
      const known = this.looked.get(id) ?? { day: 0, bars: new Map<Interval, { count: number; at: number }>() };
      if (since === null) known.day = tradingDay(venue, time);
      for (const { interval, count } of bars) known.bars.set(interval, { at: time, count: Math.max(known.bars.get(interval)?.count ?? 0, count) });
      this.looked.set(id, known);
    }
  }

  private async watch({ watches, own }: PricesCalls['watch']['ask']): Promise<Watched> {
    const before = this.watching;
    this.watching = new Map();
    const fresh: Watching[] = [];
    for (const watch of watches) {
      const known = before.get(watch.id);
      const condition = watch.of.kind === 'condition' ? this.compile(watch.of.phrase) : null;
      const place = this.live.place.get(watch.instrument) ?? -1;
      const same = known && JSON.stringify(known.watch.of) === JSON.stringify(watch.of) && known.watch.instrument === watch.instrument;
      const next: Watching = same ? known : { watch, place, condition, events: new Map(watch.memory.events), memory: watch.memory };
      this.watching.set(watch.id, next);
      if (!same) fresh.push(next);
    }
    await this.follow(fresh);
    const seen = fresh.flatMap((one) => this.firstLook(one, own) ?? []);
    return { seen, wakeAt: this.wakeAt() };
  }

  /** Makes sure that what is watched is followed, with the bars it needs. */
  private async follow(watching: readonly Watching[]): Promise<void> {
    const wanted = new Map<string, CompiledCondition[]>();
    for (const { watch, condition } of watching) {
      const ids = [watch.instrument, ...(condition?.instruments ?? [])];
      for (const id of ids) wanted.set(id, [...(wanted.get(id) ?? []), ...(condition ? [condition] : [])]);
    }
    for (const [id, conditions] of wanted) {
      const bars = needsOf(conditions);
      if (this.upTo.has(id) && !lacks(this.liveBars.get(id), bars)) continue;
      await this.lookLive(id, bars);
    }
  }

  private async lookLive(id: string, bars: LookRequest['bars']): Promise<void> {
    const known = this.liveBars.get(id);
    const all = known ? merged(bars, known) : bars;
    const look = await this.sight.look(lookInto(this.live, [id], all, null));
    const { time, number } = look;
    takeLook(this.live, look);
    this.live.now = Math.max(this.live.now, time);
    this.number = Math.max(this.number, number);
    this.upTo.set(id, number);
    const instrument = this.scene.instrumentOf(id);
    if (instrument) this.days.set(id, tradingDay(instrument.venue, time));
    keep(this.liveBars, id, all);
  }

  private firstLook(one: Watching, own: Readonly<Record<string, OwnLists>>): Seen | null {
    const { memory } = one;
    const isNew = memory.truth === null && memory.side === null;
    // What is judged already up to here, or further, is looked at when the market has come so far again.
    if (!isNew && this.number < memory.number) return null;
    if (one.watch.of.kind !== 'condition') {
      const last = this.live.column('last')[one.place] as number;
      if (Number.isNaN(last) || !isNew) {
        if (Number.isNaN(last)) return null;
        return this.judge(one, this.live.now, this.number, last, own);
      }
      const side = Math.sign(last - this.levelOf(one, one.watch.of, this.live.now)) as -1 | 0 | 1;
      return this.remember(one, { ...memory, time: this.live.now, number: this.number, side }, false, null);
    }
    return this.judge(one, this.live.now, this.number, null, own);
  }

  private async rows({ items, own }: PricesCalls['rows']['ask']): Promise<Watched> {
    const seen: Seen[] = [];
    for (const item of items) {
      if (item.kind === 'report') continue;
      if (item.kind === 'timer') {
        this.live.now = Math.max(this.live.now, item.time);
        for (const one of this.watching.values())
          if (one.condition && one.condition.events.length > 0 && item.time > one.memory.time)
            seen.push(...this.found(this.judge(one, item.time, this.number, null, own)));
        continue;
      }
      await this.take(item.row);
      const { row } = item;
      for (const one of this.watching.values()) {
        const mine = one.watch.instrument === row.instrument || one.condition?.instruments.includes(row.instrument);
        if (!mine || row.number <= one.memory.number) continue;
        const traded =
          row.traded === null || row.instrument !== one.watch.instrument ? null : priceOf(this.live.instruments[one.place] as Instrument, row.traded);
        if (one.watch.of.kind === 'condition' || traded !== null) seen.push(...this.found(this.judge(one, row.time, row.number, traded, own)));
      }
    }
    return { seen, wakeAt: this.wakeAt() };
  }

  private found = (seen: Seen | null): Seen[] => (seen && (seen.reached || seen.news) ? [seen] : []);

  /** A row of what is followed: the quote as it is after it, and its trade in the bars. */
  private async take(row: MarketRow): Promise<void> {
    const upTo = this.upTo.get(row.instrument);
    const instrument = this.scene.instrumentOf(row.instrument);
    if (upTo === undefined || !instrument) return;
    this.live.now = Math.max(this.live.now, row.time);
    this.number = Math.max(this.number, row.number);
    if (row.number <= upTo) return;
    this.upTo.set(row.instrument, row.number);
    this.live.quote(row.quote);
    if (row.traded !== null && row.quantity !== null)
      this.live.trade(row.instrument, row.time, priceOf(instrument, row.traded), row.quantity / 10 ** instrument.quantityDecimals);
    // With the day what lies before it has changed.
    if (this.days.get(row.instrument) !== tradingDay(instrument.venue, row.time)) await this.lookLive(row.instrument, []);
  }

  private judge(one: Watching, time: number, number: number, traded: number | null, own: Readonly<Record<string, OwnLists>>): Seen | null {
    const { memory, watch } = one;
    if (watch.of.kind !== 'condition') {
      if (traded === null) return null;
      const { side, reached } = levelSeen(watch.of.direction, memory.side, this.levelOf(one, watch.of, time), traded);
      return this.remember(one, { ...memory, time, number, side }, reached, decimalText(traded));
    }
    const { condition } = one;
    if (!condition) return null;
    const scope = { columns: this.live, own: ownThings(own[watch.user] ?? NOTHING), memory: one.events };
    const truth = condition.evaluate(scope, one.place) === TRUE;
    const value = condition.parts[0]?.value(scope, one.place) ?? null;
    return this.remember(one, { ...memory, time, number, truth, events: eventsOf(one.events) }, truth && memory.truth === false, value);
  }

  /** The price that an alert waits for at a time. */
  private levelOf({ place }: Watching, of: Exclude<Watch['of'], { kind: 'condition' }>, time: number): number {
    return of.kind === 'price' ? of.level : lineLevel((this.live.instruments[place] as Instrument).venue, of.line, time);
  }

  private remember(one: Watching, memory: WatchMemory, reached: boolean, value: string | null): Seen {
    const news = isNews(one.memory, memory);
    one.memory = memory;
    return { id: one.watch.id, time: memory.time, reached, value, news, memory };
  }

  /** When something that is watched can change though nothing happens: at the end of an interval of its events. */
  private wakeAt(): number | null {
    let next: number | null = null;
    for (const { condition, place } of this.watching.values()) {
      for (const { interval, bars } of condition?.events ?? []) {
        const at = this.nextEnd(place, interval, bars);
        if (at !== null && (next === null || at < next)) next = at;
      }
    }
    return next;
  }

  private nextEnd(place: number, interval: Interval, bars: number): number | null {
    const series = this.live.bars(place, interval);
    if (!series || series.length === 0) return null;
    const { now } = this.live;
    const last = series.end(series.length - 1);
    if (last > now) return last;
    // After the last close it stays true for so many intervals.
    let end = last;
    for (let k = 0; k < bars && end <= now; k++) end = barEnd(series.venue, interval, barStart(series.venue, interval, end));
    return end > now ? end : null;
  }
}

/** Asks to have instruments looked at, their figures written into columns. */
function lookInto({ place, table }: MarketColumns, ids: readonly string[], bars: LookRequest['bars'], since: number | null): LookRequest {
  const instruments = ids.filter((id) => place.has(id));
  return { instruments, places: Uint32Array.from(instruments, (id) => place.get(id) ?? 0), table: table.memory, bars, since };
}

/** Takes what came besides the figures. */
function takeLook(columns: MarketColumns, { places, changed, bars, settlements }: MarketLook): void {
  columns.touch(changed);
  for (const packed of bars) columns.takeBars(packed.interval, places, packed);
  if (settlements) columns.takeSettlements(places, settlements);
}

const priceOf = ({ priceDecimals }: Instrument, units: number): number => units / 10 ** priceDecimals;

/** The bars that conditions need, of each interval as many as the one that looks back furthest. */
function needsOf(conditions: readonly CompiledCondition[]): { interval: Interval; count: number }[] {
  const needs = new Map<Interval, number>();
  for (const { bars } of conditions) for (const [interval, count] of bars) needs.set(interval, Math.max(needs.get(interval) ?? 0, count));
  return [...needs].map(([interval, count]) => ({ interval, count }));
}

const lacks = (known: ReadonlyMap<Interval, number> | undefined, bars: LookRequest['bars']): boolean =>
  known === undefined || bars.some(({ interval, count }) => (known.get(interval) ?? 0) < count);

function keep(of: Map<string, Map<Interval, number>>, id: string, bars: LookRequest['bars']): void {
  const known = of.get(id) ?? new Map<Interval, number>();
  for (const { interval, count } of bars) known.set(interval, Math.max(known.get(interval) ?? 0, count));
  of.set(id, known);
}

function merged(bars: LookRequest['bars'], known: ReadonlyMap<Interval, number>): LookRequest['bars'] {
  const all = new Map(known);
  for (const { interval, count } of bars) all.set(interval, Math.max(all.get(interval) ?? 0, count));
  return [...all].map(([interval, count]) => ({ interval, count }));
}
