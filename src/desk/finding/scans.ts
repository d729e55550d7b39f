import { nextScheduled } from '../../core/scan/index.ts';
import { isTradable, type Instrument } from '../../core/instrument/index.ts';
import type { ScanProgress } from '../../prices/messages.ts';
import { ownLists, type FindingParts } from './parts.ts';
import type { FindingChange } from './store.ts';
import type { Scan, ScanRun, ScanTerms, ScanUniverse } from './things.ts';

const KIND = 'scan';
/** A scan that is kept running is evaluated no oftener than this, in market time. */
const KEPT_EVERY_MS = 1000;
export const MOST_RUNS = 500;

interface Running {
  readonly user: string;
  readonly scan: Scan;
  /** When it was last looked at, and what it had found. */
  at: number;
  found: ReadonlySet<string> | null;
  due: number | null;
  /** Prices came since. */
  stale: boolean;
  /** On a tape it hears each row until it has looked; then it rests, and looks for itself whether something came meanwhile. */
  listens: boolean;
}

/** Who is told of what a scan finds new; what comes of it is committed with the run. */
export interface ScanListener {
  scanned(user: string, scan: string, entered: readonly string[], time: number): FindingChange | null;
  committed(change: FindingChange): void;
}

/** A universe that names what isn't there. */
export interface UniverseProblem {
  readonly path: string;
  readonly message: string;
}

/** Saved scans: run when asked, on their times, or kept running. */
export class Scans {
  private readonly running = new Map<string, Running>();
  private readonly parts: FindingParts;
  private readonly arm: () => void;
  private readonly inTurn: <T>(work: () => Promise<T>) => Promise<T>;

  private readonly alerts: ScanListener;

  constructor(parts: FindingParts, alerts: ScanListener, arm: () => void, inTurn: <T>(work: () => Promise<T>) => Promise<T>) {
    this.parts = parts;
    this.alerts = alerts;
    this.arm = arm;
    this.inTurn = inTurn;
  }

  async load(users: readonly string[]): Promise<void> {
    for (const user of users)
      for (const { name } of await this.parts.saved.list(user, KIND)) {
        const found = await this.parts.saved.get(user, KIND, name);
        if (found) await this.follow(user, found.document as Scan, true);
      }
  }

  /** Follows a scan as it is now: on its times, and kept running. */
  async follow(user: string, scan: Scan, restarted = false): Promise<void> {
    const key = keyOf(user, scan.name);
    if (!scan.keep && !scan.schedule) {
      this.running.delete(key);
      this.arm();
      return;
    }
    const runs = restarted ? await this.parts.store.runs(user, scan.name, MOST_RUNS) : [];
    const newest = runs[runs.length - 1];
    const lastTimed = runs.filter(({ cause }) => cause === 'schedule').pop()?.at;
    const now = this.parts.desk.now();
    this.running.set(key, {
      user,
      scan,
      at: -Infinity,
      found: restarted && newest && scan.keep ? new Set(newest.items.map(({ instrument }) => instrument)) : null,
      due:
        scan.schedule &&
        nextScheduled(
          scan.schedule,
          Math.max(lastTimed ?? -Infinity, restarted && lastTimed === undefined ? now - 1 : lastTimed === undefined ? now : -Infinity),
        ),
      stale: true,
      listens: true,
    });
    if (!restarted) {
      await this.parts.prices.ask('forget', { kept: key });
      if (scan.keep) await this.inTurn(() => this.passed(now, true));
    }
    this.arm();
  }

  async unfollow(user: string, name: string): Promise<void> {
    this.running.delete(keyOf(user, name));
    await this.parts.store.dropRuns(user, name);
    this.arm();
  }

  /** Instruments whose rows a scan that is kept running waits for: on a tape, where everything is awake. */
  instruments(): string[] {
    if (this.parts.desk.clock.market !== 'tape' || ![...this.running.values()].some(({ scan, listens }) => scan.keep && listens)) return [];
    return [...this.parts.desk.market.all()].map(({ id }) => id);
  }

  nextMoment(now: number): number | null {
    const onTape = this.parts.desk.clock.market === 'tape';
    const moments = [...this.running.values()].flatMap(({ scan, due, at, stale, listens }) => {
      const again = scan.keep && (stale || !listens || !onTape) ? Math.max(at + KEPT_EVERY_MS, now + 1) : null;
      return [due, again].filter((one) => one !== null);
    });
    return moments.length === 0 ? null : Math.min(...moments);
  }

  /** Runs what is due. */
  async passed(time: number, priced: boolean): Promise<void> {
    for (const one of this.running.values()) {
      const { scan, user } = one;
      if (one.due !== null && one.due <= time && scan.schedule) {
        one.due = nextScheduled(scan.schedule, time);
        await this.runNow(user, scan.name, scan, 'schedule');
      }
      if (!scan.keep) continue;
      one.stale ||= priced || this.parts.desk.clock.market === 'demo';
      if ((one.stale || !one.listens) && time - one.at >= KEPT_EVERY_MS) await this.look(one, time);
    }
  }

  /** What a scan that is kept running has found so far. */
  entered(user: string, name: string): { readonly instrument: string }[] {
    return [...(this.running.get(keyOf(user, name))?.found ?? [])].map((instrument) => ({ instrument }));
  }

  /** What a saved scan has found, run by run, oldest first. */
  results(user: string, name: string): Promise<ScanRun[]> {
    return this.parts.store.runs(user, name, MOST_RUNS);
  }

  /** A run by itself, asked for now. */
  run(user: string, name: string | null, terms: ScanTerms, progress: string | null): Promise<ScanRun | null> {
    return this.runNow(user, name, terms, 'asked', progress === null ? null : keyOf(user, progress));
  }

  /** How far the history is that a run makes, by the name that was given with it; null where none is under way. */
  progressOf(user: string, progress: string): ScanProgress | null {
    return this.parts.prices.scanProgress(keyOf(user, progress));
  }

  async stop(user: string, progress: string): Promise<void> {
    await this.parts.prices.ask('stop', { run: keyOf(user, progress) });
  }

  private async look(one: Running, time: number): Promise<void> {
    const run = await this.evaluate(one.user, one.scan.name, one.scan, 'keep', { key: keyOf(one.user, one.scan.name), unlessSame: !one.stale });
    // Nothing came while it rested: the next row is looked at, whenever it comes.
    one.listens = run === 'same';
    if (run === 'same') return;
    one.at = time;
    one.stale = false;
    if (!run) return;
    const now = new Set(run.items.map(({ instrument }) => instrument));
    const before = one.found;
    one.found = now;
    const entered = [...now].filter((id) => !before?.has(id));
    const left = [...(before ?? [])].filter((id) => !now.has(id));
    if (before !== null && entered.length + left.length === 0) return;
    await this.keep(run, before === null ? [] : entered);
    const at = new Date(run.at).toISOString();
    const data = { at, entered: entered.map((instrument) => ({ instrument, at })), left: left.map((instrument) => ({ instrument, at })) };
    this.parts.desk.feed.hub.tellUser(`scan:${one.scan.name}`, one.user, JSON.stringify(data));
  }

  private async runNow(user: string, name: string | null, terms: ScanTerms, cause: ScanRun['cause'], progress: string | null = null): Promise<ScanRun | null> {
    const run = await this.evaluate(user, name, terms, cause, null, progress);
    if (!run || run === 'same') return null;
    if (name === null) return { ...run, id: 'unsaved' };
    if (cause !== 'schedule') return this.parts.store.addRun(run);
    const before = (await this.parts.store.runs(user, name, MOST_RUNS)).filter((one) => one.cause === 'schedule').pop();
    const known = new Set(before?.items.map(({ instrument }) => instrument));
    return this.keep(run, before ? run.items.flatMap(({ instrument }) => (known.has(instrument) ? [] : [instrument])) : []);
  }

  /** Keeps a run, and what alerts make of what it found new. */
  private async keep(run: Omit<ScanRun, 'id'>, entered: readonly string[]): Promise<ScanRun> {
    const change = entered.length === 0 ? null : this.alerts.scanned(run.user, run.scan ?? '', entered, run.at);
    const kept = await this.parts.store.addRun(run, change ?? {});
    if (change) this.alerts.committed(change);
    return kept;
  }

  /** Null where it was stopped; of one that is kept running `same` where nothing came since, if that is asked for. */
  private async evaluate(
    user: string,
    name: string | null,
    terms: ScanTerms,
    cause: ScanRun['cause'],
    kept: { readonly key: string; readonly unlessSame: boolean } | null,
    run: string | null = null,
  ): Promise<Omit<ScanRun, 'id'> | 'same' | null> {
    const from = performance.now();
    const universe = (await this.universe(user, terms.universe)).map(({ id }) => id);
    const own = await ownLists(this.parts, user);
    const { key = null, unlessSame = false } = kept ?? {};
    const found = await this.parts.prices.scan({ universe, lines: terms.lines, join: terms.join, own, kept: key, unlessSame, run });
    if (!found || found === 'same') return found;
    const { at, outcome } = found;
    return { user, scan: name, at, cause, count: outcome.items.length, milliseconds: Math.round(performance.now() - from), ...outcome };
  }

  /** The instruments that a universe holds: what its parts have in common. */
  async universe(
    user: string,
    { venues, kinds, sectors, watchlists, instruments, scan }: ScanUniverse,
    seen: ReadonlySet<string> = new Set(),
  ): Promise<Instrument[]> {
    const { desk, saved } = this.parts;
    let found = [...desk.market.all()].filter(isTradable);
    if (kinds?.includes('index')) found = [...desk.market.all()];
    if (venues) found = found.filter(({ venue }) => venues.includes(venue));
    if (kinds) found = found.filter(({ kind }) => kinds.includes(kind));
    if (sectors) found = found.filter(({ sector }) => sector !== null && sectors.includes(sector));
    if (instruments) {
      const named = new Set(instruments);
      const all = [...desk.market.all()].filter(({ id }) => named.has(id));
      found = venues || kinds || sectors ? found.filter(({ id }) => named.has(id)) : all;
    }
    for (const name of watchlists ? [watchlists] : []) {
      const ids = new Set<string>();
      for (const list of name) {
        const rows = ((await saved.get(user, 'watchlist', list))?.document as { rows: { instrument?: string }[] } | undefined)?.rows ?? [];
        for (const { instrument } of rows) if (instrument !== undefined) ids.add(instrument);
      }
      found = found.filter(({ id }) => ids.has(id));
    }
    if (scan !== undefined && !seen.has(scan)) {
      const ids = await this.resultOf(user, scan, new Set([...seen, scan]));
      found = found.filter(({ id }) => ids.has(id));
    }
    return found;
  }

  /** What a universe names that isn't there, or goes round in a circle. */
  async problems(user: string, { watchlists, instruments, scan }: ScanUniverse, name: string | null): Promise<UniverseProblem[]> {
    const { desk, saved } = this.parts;
    const problems: UniverseProblem[] = [];
    for (const [i, list] of (watchlists ?? []).entries())
      if (!(await saved.get(user, 'watchlist', list))) problems.push({ path: `/universe/watchlists/${i}`, message: `there is no watchlist named ${list}` });
    (instruments ?? []).forEach((id, i) => {
      if (!desk.market.find(id)) problems.push({ path: `/universe/instruments/${i}`, message: `${id} is not known` });
    });
    if (scan !== undefined) {
      const circle = await this.circle(user, scan, name);
      if (circle !== null) problems.push({ path: '/universe/scan', message: circle });
    }
    return problems;
  }

  private async circle(user: string, scan: string, name: string | null): Promise<string | null> {
    const seen = new Set(name === null ? [] : [name]);
    for (let next: string | undefined = scan; next !== undefined;) {
      if (seen.has(next)) return `the scans go round in a circle: ${[...seen, next].join(', ')}`;
      seen.add(next);
      const found = await this.parts.saved.get(user, KIND, next);
      if (!found) return `there is no scan named ${next}`;
      next = (found.document as Scan).universe.scan;
    }
    return null;
  }

  private async resultOf(user: string, name: string, seen: ReadonlySet<string>): Promise<ReadonlySet<string>> {
    const runs = await this.parts.store.runs(user, name, 1);
    const newest = runs[runs.length - 1];
    if (newest) return new Set(newest.items.map(({ instrument }) => instrument));
    const found = await this.parts.saved.get(user, KIND, name);
    if (!found) return new Set();
    const scan = found.document as Scan;
    const universe = await this.universe(user, scan.universe, seen);
    const own = await ownLists(this.parts, user);
    const result = await this.parts.prices.scan({
      universe: universe.map(({ id }) => id),
      lines: scan.lines,
      join: scan.join,
      own,
      kept: null,
      unlessSame: false,
      run: null,
    });
    return new Set(result === 'same' ? [] : result?.outcome.items.map(({ instrument }) => instrument));
  }
}

const keyOf = (user: string, name: string): string => JSON.stringify([user, name]);
