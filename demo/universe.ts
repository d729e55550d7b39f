import type { Instrument } from '../src/core/instrument/index.ts';
import { Chance, textKey } from '../src/core/random/index.ts';
import type { DemoWorld, Profile } from '../src/venue/demo-market/profile.ts';
import { FIXED_INSTRUMENTS, fund, fundamentalsOf, future, option, share, spot } from './fixed.ts';
import { makeNewIssues } from './new-issues.ts';
import { COAST_NEWS, COMMODITIES, COMPANY_NEWS, EXPIRIES, PLACES, SECTORS, SPOT_ASSETS } from './words.ts';

const SHARES = 520;
const QUAY_LISTINGS = 260;
const FUNDS = 40;
const OPTION_UNDERLYINGS = 18;

const FIXED_PRICES: Readonly<Record<string, number>> = {
  'GANET.HALM': 40.6,
  'KELPA.HALM': 9.96,
  'BRINE.HALM': 27.3,
  'HALM40.HALM': 4100,
  'HALMF.HALM': 164,
  'SALMO-JUN26.HALM': 68,
  'CARB-EUR.VSPR': 64,
};

/** The demo world of a seed: the fixed instruments and about 1,200 in all. */
export function demoWorld(seed: number): DemoWorld {
  const profiles: Profile[] = FIXED_INSTRUMENTS.map((instrument) => fixedProfile(instrument));
  const taken = new Set(FIXED_INSTRUMENTS.map((instrument) => instrument.ticker));
  const shares = makeShares(seed, taken);
  profiles.push(...shares, ...makeListings(seed, shares), ...makeFunds(seed, taken), ...makeFutures(), ...makeOptions(shares), ...makeSpots());
  const { profiles: offered, issues } = makeNewIssues(seed, new Set(profiles.map(({ instrument }) => instrument.name)), (place, chance) =>
    makeTicker(place, chance, taken),
  );
  return {
    profiles: [...profiles, ...offered].map(withFundamentals),
    sectors: SECTORS.map((sector) => sector.name),
    companyNews: COMPANY_NEWS,
    coastNews: COAST_NEWS,
    issues,
  };
}

function withFundamentals(profile: Profile): Profile {
  const { instrument, price } = profile;
  if (instrument.fundamentals !== null || (instrument.kind !== 'share' && instrument.kind !== 'fund')) return profile;
  return { ...profile, instrument: { ...instrument, fundamentals: fundamentalsOf(instrument.ticker, price) } };
}

function fixedProfile(instrument: Instrument): Profile {
  // Cheap against its tick, a share moves enough of them only if it moves further.
  const common = {
    instrument,
    price: FIXED_PRICES[instrument.id] ?? 1,
    ownVolatility: instrument.id === 'KELPA.HALM' ? 0.036 : 0.016,
    indexBeta: 0.9,
    sectorBeta: 0.7,
    spreadTicks: 1,
    follows: null,
  };
  switch (instrument.kind) {
    case 'index':
      return { ...common, ownVolatility: 0, indexBeta: 1, sectorBeta: 0, dailyVolume: 20_000 };
    case 'fund':
      return { ...common, dailyVolume: 60_000, follows: { instrument: 'HALM40.HALM', by: 'carry' } };
    case 'future':
      if (instrument.underlying === null) return { ...common, ownVolatility: 0.034, indexBeta: 0.1, sectorBeta: 0.4, dailyVolume: 8_000 };
      return { ...common, dailyVolume: 26_000, follows: { instrument: instrument.underlying, by: 'carry' } };
    case 'option':
      return { ...common, dailyVolume: 900, spreadTicks: 3, follows: { instrument: instrument.underlying ?? '', by: 'option' } };
    case 'spot':
      return { ...common, ownVolatility: 0.027, indexBeta: 0.2, sectorBeta: 0, dailyVolume: 90_000_000 };
    case 'inverse':
      return { ...common, dailyVolume: 4_000_000, follows: { instrument: 'CARB-EUR.VSPR', by: 'carry' } };
    case 'share':
      if (instrument.venue === 'QUAY')
        return { ...common, dailyVolume: 90_000, spreadTicks: 2, follows: { instrument: `${instrument.ticker}.HALM`, by: 'parity' } };
      return { ...common, dailyVolume: 480_000 };
    default:
      return instrument.kind satisfies never;
  }
}

const CONSONANTS = 'BDFGHKLMNPRSTVW';
const VOWELS = 'AEIOU';

function makeTicker(place: string, chance: Chance, taken: Set<string>): string {
  const letters = place.toUpperCase().replace(/[^A-Z]/g, '');
  for (let attempt = 0; ; attempt++) {
    let ticker = letters.slice(0, Math.max(2, 4 - attempt));
    while (ticker.length < 5) ticker += (ticker.length % 2 === 0 ? CONSONANTS : VOWELS)[chance.below(ticker.length % 2 === 0 ? 15 : 5)] ?? 'A';
    if (!taken.has(ticker)) {
      taken.add(ticker);
      return ticker;
    }
  }
}

function makeShares(seed: number, taken: Set<string>): Profile[] {
  const chance = new Chance(seed, textKey('shares'));
  const names = new Set<string>(FIXED_INSTRUMENTS.map((instrument) => instrument.name));
  const made: Profile[] = [];
  while (made.length < SHARES) {
    const sector = chance.pick(SECTORS);
    const place = chance.pick(PLACES);
    const name = `${place} ${chance.pick(sector.nouns)}`;
    if (names.has(name)) continue;
    names.add(name);
    const price = Math.round(100 * Math.exp(1.2 + 2.9 * chance.next())) / 100;
    const liquid = Math.exp(-2.2 * chance.next());
    made.push({
      instrument: share(makeTicker(place, chance, taken), 'HALM', name, sector.name),
      price,
      ownVolatility: 0.008 + 0.016 * chance.next(),
      indexBeta: 0.4 + 0.9 * chance.next(),
      sectorBeta: 0.3 + 0.8 * chance.next(),
      dailyVolume: Math.round((liquid * 6_000_000) / price),
      spreadTicks: Math.max(1, Math.round((price * 0.0006) / 0.01 / liquid / 2)),
      follows: null,
    });
  }
  return made;
}

function makeListings(seed: number, shares: readonly Profile[]): Profile[] {
  const chance = new Chance(seed, textKey('listings'));
  const from = [...shares];
  return Array.from({ length: QUAY_LISTINGS }, () => {
    const [home] = from.splice(chance.below(from.length), 1) as [Profile];
    const { ticker, name, sector } = home.instrument;
    return {
      ...home,
      instrument: share(ticker, 'QUAY', name, sector ?? ''),
      dailyVolume: Math.round(home.dailyVolume * 0.2),
      spreadTicks: home.spreadTicks + 1,
      follows: { instrument: home.instrument.id, by: 'parity' as const },
    };
  });
}

function makeFunds(seed: number, taken: Set<string>): Profile[] {
  const chance = new Chance(seed, textKey('funds'));
  const names = new Set<string>();
  const made: Profile[] = [];
  for (let i = 0; made.length < FUNDS; i++) {
    const sector = SECTORS[i % SECTORS.length] as (typeof SECTORS)[number];
    const name = `${chance.pick(PLACES)} ${sector.name} Fund`;
    if (names.has(name)) continue;
    names.add(name);
    made.push({
      instrument: fund(makeTicker(name, chance, taken), name, sector.name),
      price: Math.round(100 * (20 + 80 * chance.next())) / 100,
      ownVolatility: 0.003,
      indexBeta: 0.5,
      sectorBeta: 0.9,
      dailyVolume: 20_000 + chance.below(60_000),
      spreadTicks: 2 + chance.below(4),
      follows: null,
    });
  }
  return made;
}

function makeFutures(): Profile[] {
  const made: Profile[] = [];
  const usual = { ownVolatility: 0.013, indexBeta: 0.15, sectorBeta: 0.4, spreadTicks: 1 };
  EXPIRIES.forEach(({ code, date }, at) => {
    const volume = Math.round(9_000 / (at + 1));
    for (const c of COMMODITIES)
      made.push({
        ...usual,
        instrument: future(`${c.stem}-${code}`, `${c.name} future`, {
          priceDecimals: 2,
          tick: c.tick,
          multiplier: c.multiplier,
          underlying: null,
          expiry: date,
          sector: c.sector,
        }),
        price: (Math.round((c.price * (1 + 0.006 * at) * 100) / c.tick) * c.tick) / 100,
        dailyVolume: volume,
        follows: at === 0 ? null : { instrument: `${c.stem}-JUN26.HALM`, by: 'carry' },
      });
    if (at === 0) return;
    const carry = { instrument: 'HALM40.HALM', by: 'carry' as const };
    const terms = { priceDecimals: 1, tick: 5, underlying: 'HALM40.HALM', expiry: date };
    made.push({
      ...usual,
      instrument: future(`HALM40-${code}`, 'Halm 40 future', { ...terms, multiplier: 10 }),
      price: 4100,
      dailyVolume: volume,
      follows: carry,
    });
    made.push({
      ...usual,
      instrument: future(`HALM40M-${code}`, 'Halm 40 micro future', { ...terms, multiplier: 1 }),
      price: 4100,
      dailyVolume: volume,
      follows: carry,
    });
    made.push({
      ...usual,
      instrument: future(`SALMO-${code}`, 'Salmon future', { priceDecimals: 2, tick: 5, multiplier: 500, underlying: null, expiry: date, sector: 'Fisheries' }),
      price: 68,
      dailyVolume: volume,
      follows: { instrument: 'SALMO-JUN26.HALM', by: 'carry' },
    });
  });
  return made;
}

const OPTION_MONTHS = [
  { code: 'APR26', date: '2026-04-17' },
  { code: 'JUN26', date: '2026-06-19' },
] as const;

function makeOptions(shares: readonly Profile[]): Profile[] {
  const made: Profile[] = [];
  const ganet = { ticker: 'GANET', name: 'Gannet', price: 40.6 };
  const large = [...shares].sort((a, b) => b.dailyVolume * b.price - a.dailyVolume * a.price).slice(0, OPTION_UNDERLYINGS - 1);
  const underlyings = [ganet, ...large.map((p) => ({ ticker: p.instrument.ticker, name: p.instrument.name, price: p.price }))];
  for (const { ticker, name, price } of underlyings) {
    const step = price > 60 ? 5 : price > 25 ? 2 : 1;
    const middle = Math.max(3 * step, Math.round(price / step) * step);
    for (const { code, date } of OPTION_MONTHS)
      for (const right of ['call', 'put'] as const)
        for (const offset of [-2, -1, 0, 1, 2]) {
          const strike = middle + offset * step;
          const letter = right === 'call' ? 'C' : 'P';
          if (ticker === 'GANET' && code === 'APR26' && right === 'call' && strike === 40) continue;
          made.push({
            instrument: option(`${ticker}-${code}-${strike}${letter}`, `${name} ${right} ${strike}`, {
              underlying: `${ticker}.HALM`,
              expiry: date,
              strike: strike * 100,
              right,
            }),
            price: 1,
            ownVolatility: 0,
            indexBeta: 0,
            sectorBeta: 0,
            dailyVolume: 700,
            spreadTicks: 4,
            follows: { instrument: `${ticker}.HALM`, by: 'option' },
          });
        }
  }
  return made;
}

function makeSpots(): Profile[] {
  return SPOT_ASSETS.map(({ asset, name, price }) => ({
    instrument: spot(`${asset}-EUR`, name),
    price,
    ownVolatility: 0.025,
    indexBeta: 0.2,
    sectorBeta: 0,
    dailyVolume: Math.round((3_000_000 / price) * 10_000),
    spreadTicks: Math.max(1, Math.round(price * 0.03)),
    follows: null,
  }));
}
