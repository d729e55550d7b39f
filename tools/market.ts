import { FIXED_INSTRUMENTS } from '../demo/fixed.ts';
import { demoWorld } from '../demo/universe.ts';
import { asPrice, tickAt } from '../src/core/instrument/index.ts';
import { formatDay, previousTradingDay, type Day } from '../src/core/market/index.ts';
import { Headlines } from '../src/venue/demo-market/headlines.ts';
import { FIRST_DAY, History } from '../src/venue/demo-market/history.ts';
import { MinuteHistory } from '../src/venue/demo-market/minutes.ts';
import { TickMaker, tradesADay } from '../src/venue/demo-market/ticks.ts';

// Measures the demo market of a seed: how far it moves, how rough its minutes are, how often it trades.
const seed = Number(process.env['KAVIX_SEED'] ?? 1);
const world = demoWorld(seed);
const history = new History(world, seed);
const minutes = new MinuteHistory(history, new Headlines(world, seed));
const SESSIONS = 40;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;
const mean = (values: readonly number[]): number => values.reduce((sum, one) => sum + one, 0) / values.length;

function correlation(values: readonly number[], lag: number): number {
  const middle = mean(values);
  let top = 0;
  let bottom = 0;
  values.forEach((value, i) => {
    bottom += (value - middle) ** 2;
    if (i >= lag) top += (value - middle) * ((values[i - lag] ?? 0) - middle);
  });
  return top / bottom;
}

function sessionsBefore(venue: 'HALM' | 'QUAY' | 'VSPR'): Day[] {
  const days: Day[] = [];
  for (let day = previousTradingDay(venue, FIRST_DAY); days.length < SESSIONS; day = previousTradingDay(venue, day)) days.push(day);
  return days;
}

export interface MarketFigures {
  /** Median of the days' ranges, in ticks. */
  readonly ticks: number;
  /** Share of minutes whose close is that of the minute before. */
  readonly flat: number;
  /** Autocorrelation of minute returns at lag 1, and of their size at lag 10; means over sessions. */
  readonly lag1: number;
  readonly lag10: number;
  readonly kurtosis: number;
  /** Volume of the first half hour against that of the hour about noon, by the minute. */
  readonly u: number;
}

/** How an instrument's last sessions before the first day were. */
export function measure(id: string): MarketFigures {
  const { instrument } = history.profile(id);
  const ranges: number[] = [];
  const returns: number[][] = [];
  const early: number[] = [];
  const noon: number[] = [];
  for (const day of sessionsBefore(instrument.venue)) {
    const session = minutes.session(id, day);
    const bar = history.day(id, day);
    if (!session || !bar) continue;
    ranges.push((bar.high - bar.low) / tickAt(instrument, asPrice(bar.close)));
    returns.push([...session.close].slice(1).map((close, i) => Math.log(close / (session.close[i] ?? close))));
    const middle = Math.floor(session.volume.length / 2);
    early.push(mean([...session.volume.slice(0, 30)]));
    noon.push(mean([...session.volume.slice(middle - 30, middle + 30)]));
  }
  const all = returns.flat();
  const centre = mean(all);
  const variance = mean(all.map((one) => (one - centre) ** 2));
  return {
    ticks: median(ranges),
    flat: all.filter((one) => one === 0).length / all.length,
    lag1: mean(returns.map((of) => correlation(of, 1))),
    lag10: mean(returns.map((of) => correlation(of.map(Math.abs), 10))),
    kurtosis: mean(all.map((one) => (one - centre) ** 4)) / variance ** 2,
    u: mean(early) / mean(noon),
  };
}

/** Prints a second in the first half hour of the first day. */
export function printsASecond(id: string): number {
  const maker = new TickMaker(history.profile(id).instrument, history, minutes);
  let prints = 0;
  for (let minute = 0; minute < 30; minute++) prints += maker.minute(FIRST_DAY, minute).filter(({ event }) => event.event === 'trade').length;
  return prints / 1800;
}

/** The ten instruments of HALM that trade most often. */
export const busiest = (): string[] =>
  world.profiles
    .filter(({ instrument }) => instrument.venue === 'HALM' && instrument.kind !== 'index' && instrument.kind !== 'option')
    .sort((a, b) => tradesADay(b) - tradesADay(a))
    .slice(0, 10)
    .map(({ instrument }) => instrument.id);

if (process.argv[1]?.endsWith('market.ts')) {
  const say = (text: string): void => void process.stdout.write(`${text}\n`);
  say(
    `seed ${seed}, ${SESSIONS} sessions before ${formatDay(FIRST_DAY)}\n\ninstrument              ticks/day   flat   lag 1  |r| lag 10  kurtosis  open ÷ noon`,
  );
  for (const { id } of FIXED_INSTRUMENTS) {
    const { ticks, flat, lag1, lag10, kurtosis, u } = measure(id);
    const columns = [ticks.toFixed(0).padStart(10), `${(flat * 100).toFixed(0)} %`.padStart(6), lag1.toFixed(3).padStart(7), lag10.toFixed(3).padStart(11)];
    say(`${id.padEnd(22)}${columns.join(' ')} ${kurtosis.toFixed(1).padStart(9)} ${u.toFixed(2).padStart(12)}`);
  }
  say('\nthe ten busiest of HALM: prints a second in the first half hour');
  for (const id of busiest()) say(`${id.padEnd(22)} ${printsASecond(id).toFixed(2)}`);
}
