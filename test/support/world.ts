import { FIXED_INSTRUMENTS } from '../../demo/fixed.ts';
import { ACCOUNTS } from '../../demo/accounts.ts';
import type { Instrument } from '../../src/core/instrument/index.ts';
import { parseTape } from '../../src/core/formats/index.ts';
import type { AccountTerms } from '../../src/core/portfolio/index.ts';
import { Exchange } from '../../src/venue/exchange.ts';
import type { SavedExchange } from '../../src/venue/exchange.ts';
import { TapeSource } from '../../src/venue/tape-source.ts';

export const INSTRUMENTS = new Map(FIXED_INSTRUMENTS.map((instrument) => [instrument.id, instrument]));

export function instrument(id: string): Instrument {
  const found = INSTRUMENTS.get(id);
  if (!found) throw new Error(`no fixed instrument ${id}`);
  return found;
}

export const account = (id: string): AccountTerms => {
  const found = ACCOUNTS.find((one) => one.id === id);
  if (!found) throw new Error(`no account ${id}`);
  return found;
};

export const at = (clock: string): number => Date.parse(clock.includes('T') ? clock : `2026-03-02T${clock}Z`);

/** A tape from rows such as `09:00:01.000 GANET.HALM level ask 41.20 300`. */
export function tapeOf(lines: readonly string[]): TapeSource {
  const rows = lines.map((line) => {
    const [time = '', id = '', event = '', ...rest] = line.split(' ');
    const stamp = time.includes('T') ? time : `2026-03-02T${time}Z`;
    const price =
      event === 'settlement'
        ? `,${rest[0]},,`
        : event === 'state'
          ? `,,,${rest[0]}`
          : event === 'price-limit'
            ? `,${rest[1] ?? ''},,${rest[0]}`
            : `${rest[0]},${rest[1]},${rest[2]},`;
    return `${stamp},${id},${event},${price}`;
  });
  const read = parseTape(`time,instrument,event,side,price,quantity,text\n${rows.join('\n')}\n`, INSTRUMENTS);
  if (!read.ok) throw new Error(JSON.stringify(read.refusal));
  return new TapeSource(read.value, INSTRUMENTS);
}

export function exchangeOf(lines: readonly string[], latency = 0, saved: SavedExchange | null = null): Exchange {
  return new Exchange(INSTRUMENTS, ACCOUNTS, tapeOf(lines), latency, saved, 0);
}
