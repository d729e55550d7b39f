import { parseCondition, type PhraseError } from '../../core/language/index.ts';
import { compileCondition, type CompiledCondition } from '../../core/scan/index.ts';
import type { Instrument } from '../../core/instrument/index.ts';
import { instrumentOf, instruments } from '../../live/index.ts';

const listingsOf = (ticker: string): readonly Instrument[] => [...instruments.values()].filter((one) => one.ticker === ticker);

export type ReadPhrase = { readonly ok: true; readonly value: CompiledCondition } | { readonly ok: false; readonly error: PhraseError };

/** A condition as it is typed: read here, by the same reader as at the server. */
export function readCondition(text: string): ReadPhrase {
  const parsed = parseCondition(text);
  return parsed.ok ? compileCondition(parsed.value, { instrumentOf, listingsOf, fits: () => true }) : parsed;
}
