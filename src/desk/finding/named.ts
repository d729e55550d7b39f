import { parseCondition } from '../../core/language/index.ts';
import { compileCondition } from '../../core/scan/index.ts';
import type { MarketData } from '../market-data.ts';

const known = new Map<string, readonly string[]>();
const MOST_KNOWN = 2000;

/** The instruments that a condition names besides the one it is asked of. */
export function instrumentsNamed(market: MarketData, phrase: string): readonly string[] {
  const before = known.get(phrase);
  if (before) return before;
  const parsed = parseCondition(phrase);
  const scene = { instrumentOf: (id: string) => market.find(id), listingsOf: (ticker: string) => market.listings(ticker), fits: () => true };
  const made = parsed.ok ? compileCondition(parsed.value, scene) : parsed;
  const found = made.ok ? made.value.instruments : [];
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(phrase, found);
  return found;
}
