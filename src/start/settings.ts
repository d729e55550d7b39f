import { resolve } from 'node:path';

export interface Settings {
  readonly host: string;
  readonly port: number;
  readonly dataFolder: string;
  readonly market: { readonly kind: 'demo' } | { readonly kind: 'tape'; readonly file: string };
  readonly seed: number;
  /** A new demo world has trading behind it. */
  readonly past: boolean;
  readonly clock: 'live' | 'manual';
  readonly latencyMs: number;
  /** The file that the market is written down in, as a tape; null for none. */
  readonly record: string | null;
}

/** A setting that can't be used, in words for the person who starts Kavix. */
export class SettingUnusable extends Error {}

function whole(name: string, text: string | undefined, fallback: number, least: number, most: number): number {
  if (text === undefined || text === '') return fallback;
  const value = Number(text);
  if (!Number.isInteger(value) || value < least || value > most)
    throw new SettingUnusable(`${name} must be a whole number from ${least} to ${most}, not "${text}".`);
  return value;
}

/**
 * Settings from the environment. Relative paths count from the repository's root.
 *
 * @throws SettingUnusable naming the setting and what it takes
 */
export function readSettings(environment: NodeJS.ProcessEnv, root: string): Settings {
  const market = environment['KAVIX_MARKET'] || 'demo';
  if (market !== 'demo' && !/^tape:.+/.test(market)) throw new SettingUnusable(`KAVIX_MARKET must be demo or tape:<file.csv>, not "${market}".`);
  const clock = environment['KAVIX_CLOCK'] || 'live';
  if (clock !== 'live' && clock !== 'manual') throw new SettingUnusable(`KAVIX_CLOCK must be live or manual, not "${clock}".`);
  const past = environment['KAVIX_PAST'] || 'demo';
  if (past !== 'demo' && past !== 'none') throw new SettingUnusable(`KAVIX_PAST must be demo or none, not "${past}".`);
  return {
    host: environment['HOST'] || '127.0.0.1',
    port: whole('PORT', environment['PORT'], 4310, 0, 65_535),
    dataFolder: resolve(root, environment['KAVIX_DATA'] || './data'),
    market: market === 'demo' ? { kind: 'demo' } : { kind: 'tape', file: resolve(root, market.slice(5)) },
    record: environment['KAVIX_RECORD'] ? resolve(root, environment['KAVIX_RECORD']) : null,
    seed: whole('KAVIX_SEED', environment['KAVIX_SEED'], 1, 0, 2 ** 31 - 1),
    past: past === 'demo' && market === 'demo',
    clock,
    latencyMs: whole('KAVIX_VENUE_LATENCY_MS', environment['KAVIX_VENUE_LATENCY_MS'], clock === 'manual' ? 0 : 15, 0, 60_000),
  };
}
