import { asPrice } from '../src/core/instrument/index.ts';
import { dayStart, formatDay, nextTradingDay, previousTradingDay, sessionTimes, type Day } from '../src/core/market/index.ts';
import { Chance, textKey } from '../src/core/random/index.ts';
import { FIRST_DAY } from '../src/venue/demo-market/history.ts';
import type { Profile } from '../src/venue/demo-market/profile.ts';
import type { OfferedIssue } from '../src/venue/new-issues.ts';
import { share } from './fixed.ts';
import { PLACES, SECTORS } from './words.ts';

/** Issues of the first weeks, the first of them open when the world begins. */
const ISSUES = 8;
const FIRST_CLOSE = 3;
const DAYS_BETWEEN = 6;
const DAYS_OPEN = 8;
/** From the allotment to the listing, so that the shares settle on it. */
const DAYS_TO_LISTING = 2;

/** The trading day so many after another; negative before it. */
function daysOn(day: Day, count: number): Day {
  let at = day;
  for (let i = 0; i < Math.abs(count); i++) at = count > 0 ? nextTradingDay('HALM', at) : previousTradingDay('HALM', at);
  return at;
}

/** A company by a name that no other has. */
function newCompany(chance: Chance, names: ReadonlySet<string>): { place: string; sector: (typeof SECTORS)[number]; name: string } {
  for (;;) {
    const [place, sector] = [chance.pick(PLACES), chance.pick(SECTORS)];
    const name = `${place} ${chance.pick(sector.nouns)}`;
    if (!names.has(name)) return { place, sector, name };
  }
}

/**
 * Companies that offer their shares in the first weeks of a world, and how their shares behave once listed.
 *
 * @param names those that other companies have
 * @param ticker makes a new one for a place
 */
export function makeNewIssues(
  seed: number,
  names: ReadonlySet<string>,
  ticker: (place: string, chance: Chance) => string,
): { profiles: Profile[]; issues: OfferedIssue[] } {
  const chance = new Chance(seed, textKey('new issues'));
  const made = Array.from({ length: ISSUES }, (_, i) => {
    const closes = daysOn(FIRST_DAY, FIRST_CLOSE + i * DAYS_BETWEEN);
    const allots = nextTradingDay('HALM', closes);
    const lists = formatDay(daysOn(allots, DAYS_TO_LISTING));
    const { place, sector, name } = newCompany(chance, names);
    const instrument = { ...share(ticker(place, chance), 'HALM', name, sector.name), listsOn: lists };
    const middle = Math.round(10 * (8 + 30 * chance.next()));
    const [low, high] = [Math.round(middle * 0.94) * 10, Math.round(middle * 1.06) * 10];
    const price = Math.round((low + (0.2 + 0.8 * chance.next()) * (high - low)) / 5) * 5;
    const profile: Profile = {
      instrument,
      price: (price * (0.96 + 0.22 * chance.next())) / 100,
      ownVolatility: 0.022,
      indexBeta: 0.8,
      sectorBeta: 0.6,
      dailyVolume: 60_000 + chance.below(200_000),
      spreadTicks: 3,
      follows: null,
    };
    const issue: OfferedIssue = {
      id: instrument.id,
      low: asPrice(low),
      high: asPrice(high),
      lot: chance.pick([25, 50, 100]),
      mostLots: 20,
      opensAt: dayStart('HALM', daysOn(closes, -DAYS_OPEN)),
      closesAt: sessionTimes('HALM', closes).close,
      allottedAt: dayStart('HALM', allots),
      listsOn: lists,
      price: null,
      outcome: { price: asPrice(price), share: 0.2 + 0.7 * chance.next(), seed },
    };
    return { profile, issue };
  });
  return { profiles: made.map(({ profile }) => profile), issues: made.map(({ issue }) => issue) };
}
