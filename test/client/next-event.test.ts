import { expect } from 'chai';
import { eventWords, nextEvent } from '../../src/client/next-event.ts';
import type { VenueId } from '../../src/core/instrument/index.ts';

const at = (time: string): number => Date.parse(`2026-03-02T${time}Z`);
const clock = (time: number): string => new Date(time).toISOString().slice(11, 16);
type More = Omit<Parameters<typeof nextEvent>[1], 'venues' | 'intraday'>;
const words = (time: string, venues: readonly VenueId[], intraday: readonly VenueId[] = [], more: More = {}): string => {
  const next = nextEvent(at(time), { venues, intraday, ...more });
  return next ? eventWords(next, at(time), clock) : 'nothing';
};

describe('what comes next for an account', () => {
  const cases: readonly (readonly [name: string, found: string, then: string])[] = [
    ['before the session its opening', words('08:00:00.000', ['HALM']), 'HALM opens 09:00'],
    ['in the session its end', words('10:00:00.000', ['HALM']), 'HALM closes 17:30'],
    ['the broker’s intraday close where something is held for the day', words('10:00:00.000', ['HALM'], ['HALM']), 'intraday ends 17:20'],
    ['after the session the next opening', words('18:00:00.000', ['HALM']), 'HALM opens 09:00'],
    ['round the clock the turn of the day', words('18:00:00.000', ['VSPR']), 'VSPR turns 00:00'],
    ['of several venues the nearest', words('10:00:00.000', ['VSPR', 'HALM']), 'HALM closes 17:30'],
    ['five minutes before still the time', words('17:25:00.000', ['HALM']), 'HALM closes 17:30'],
    ['under five minutes the seconds that are left', words('17:25:48.000', ['HALM']), 'HALM closes in 4:12'],
    ['a no-trade window that comes before', words('10:00:00.000', ['HALM'], [], { nextWindow: '2026-03-02T12:00:00.000Z' }), 'no-trade 12:00'],
    ['not one of another day', words('10:00:00.000', ['HALM'], [], { nextWindow: '2026-03-03T09:00:00.000Z' }), 'HALM closes 17:30'],
    [
      'inside of it its end',
      words('12:01:00.000', ['HALM'], [], { blocked: [{ rule: 'noTradeWindows', until: '2026-03-02T12:05:00.000Z' }] }),
      'window ends in 4:00',
    ],
    ['the end of a cool-down', words('12:01:00.000', ['HALM'], [], { blocked: [{ rule: 'coolDown', until: '2026-03-02T12:16:00.000Z' }] }), 'cooled 12:16'],
    [
      'not of the block of a whole day',
      words('12:01:00.000', ['HALM'], [], { blocked: [{ rule: 'dayLossLimit', until: '2026-03-02T16:00:00.000Z' }] }),
      'HALM closes 17:30',
    ],
    [
      'when a working order expires',
      words('12:01:00.000', ['HALM'], [], { expiries: ['2026-03-09T00:00:00.000Z', '2026-03-02T15:00:00.000Z'] }),
      'order ends 15:00',
    ],
    ['nothing that is over', words('12:01:00.000', [], [], { expiries: ['2026-03-02T12:01:00.000Z'] }), 'nothing'],
    ['without a venue nothing', words('10:00:00.000', []), 'nothing'],
  ];
  for (const [name, found, then] of cases) it(`is ${name}`, () => expect(found).to.equal(then));
});
