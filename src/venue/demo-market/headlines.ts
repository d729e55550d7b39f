import { sessionTimes, type Day } from '../../core/market/index.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import { Chance, textKey } from '../../core/random/index.ts';
import type { DemoWorld, Profile } from './profile.ts';

/** A headline of a day, the jump it gives its instrument, and whether trading is halted for it. */
export interface DayHeadline {
  readonly minute: number;
  readonly time: number;
  readonly instrument: string | null;
  readonly text: string;
  /** Log return at that minute. */
  readonly jump: number;
  /** Minutes without trading from then on; 0 for none. */
  readonly haltMinutes: number;
}

const COMPANY_HEADLINES = 26;
const COAST_HEADLINES = 7;
const HALT_FROM = 2.2;
const HALT_MINUTES = 10;

/** The day's headlines and halts: a pure function of seed and day. */
export class Headlines {
  private readonly days = new Map<Day, readonly DayHeadline[]>();
  private readonly shares: readonly Profile[];
  private readonly world: DemoWorld;
  private readonly seed: number;

  constructor(world: DemoWorld, seed: number) {
    this.world = world;
    this.seed = seed;
    this.shares = world.profiles.filter((profile) => profile.instrument.kind === 'share' && profile.follows === null && profile.instrument.listsOn === null);
  }

  of(day: Day): readonly DayHeadline[] {
    let found = this.days.get(day);
    if (!found) {
      this.days.set(day, (found = this.make(day)));
      if (this.days.size > 60) this.days.delete(this.days.keys().next().value as Day);
    }
    return found;
  }

  /** Minutes of the session in which an instrument is halted; a second listing halts with the first. */
  haltedMinutes(instrument: Instrument, day: Day): ReadonlySet<number> {
    const halted = new Set<number>();
    if (instrument.kind !== 'share') return halted;
    const home = `${instrument.ticker}.HALM`;
    for (const headline of this.of(day)) if (headline.instrument === home) for (let i = 0; i < headline.haltMinutes; i++) halted.add(headline.minute + i);
    return halted;
  }

  private make(day: Day): readonly DayHeadline[] {
    const chance = new Chance(this.seed, textKey('headlines'), day);
    const { open, close } = sessionTimes('HALM', day);
    const minutes = Math.round((close - open) / 60_000);
    const made: DayHeadline[] = [];
    // The fixed shares are the ones people look at first: something happens there every few days.
    const fixed = this.shares.slice(0, 3);
    const told = new Set<string>();
    for (let i = 0; i < COMPANY_HEADLINES; i++) {
      const profile = i === 0 && chance.next() < 0.6 ? chance.pick(fixed) : chance.pick(this.shares);
      if (told.has(profile.instrument.id)) continue;
      told.add(profile.instrument.id);
      const size = chance.normal() * 1.2;
      const minute = 15 + chance.below(minutes - 60);
      made.push({
        minute,
        time: open + minute * 60_000,
        instrument: profile.instrument.id,
        text: chance.pick(this.world.companyNews).replace('{name}', profile.instrument.name),
        jump: size * profile.ownVolatility,
        haltMinutes: Math.abs(size) > HALT_FROM ? HALT_MINUTES : 0,
      });
    }
    for (let i = 0; i < COAST_HEADLINES; i++) {
      const minute = chance.below(minutes);
      made.push({ minute, time: open + minute * 60_000 + 30_000, instrument: null, text: chance.pick(this.world.coastNews), jump: 0, haltMinutes: 0 });
    }
    return made.sort((a, b) => a.time - b.time);
  }
}

/** Log returns by minute of the session for one instrument. */
export function headlineJumps(headlines: readonly DayHeadline[], instrument: string): ReadonlyMap<number, number> {
  const jumps = new Map<number, number>();
  for (const headline of headlines) if (headline.instrument === instrument) jumps.set(headline.minute, headline.jump);
  return jumps;
}
