import { dayFigures, leftOfDay, totalOpenRisk, type AccountState } from '../../core/desk/index.ts';
import type { Price } from '../../core/instrument/index.ts';
import { formatDay, tradingDay, venueMoment } from '../../core/market/index.ts';
import { formatMoney, formatScaled, type Money } from '../../core/number/index.ts';
import { type Market, homeVenue } from '../../core/portfolio/index.ts';
import { blocksAt, locksAt, nextWindow, rulesText, windowAt, type RiskState, type RuleChange } from '../../core/risk/index.ts';
import type { risk, ShapeOf } from '../../schemas/shapes.ts';
import { isoOrNull, isoTime } from './text.ts';

export type RiskRulesAnswer = ShapeOf<typeof risk.riskRules>;
export type RiskStateAnswer = ShapeOf<typeof risk.riskState>;
export type RuleChangeAnswer = ShapeOf<typeof risk.ruleChange>;

export const presentRules = ({ risk: { rules, version } }: AccountState): RiskRulesAnswer => ({ ...rulesText(rules), version });

export const presentChange = ({ time, ...change }: RuleChange): RuleChangeAnswer => ({ ...change, time: isoTime(time) });

/** The last lock of an account, from when to when it was; null while one is on, and where there was none. */
function lockOver({ locks, changes }: RiskState, now: number): RiskStateAnswer['lockOver'] {
  const untils = Object.values(locks);
  const until = Math.max(...untils);
  const made = changes.findLast(({ kind }) => kind === 'lock');
  return untils.length === 0 || until > now || !made ? null : { from: isoTime(made.time), until: isoTime(until) };
}

/** What an account's rules have come to by now. */
export function presentRisk(state: AccountState, market: Market, now: number, standing: (orderId: string) => Price | null): RiskStateAnswer {
  const { terms, risk } = state;
  const venue = homeVenue(terms);
  const day = dayFigures(state, market);
  const open = totalOpenRisk(state, market, standing);
  const left = leftOfDay(state, market);
  const euro = (sum: Money): string => formatMoney(sum, terms.currency);
  const locks = Object.entries(locksAt(risk, now));
  const window = windowAt(risk.rules.noTradeWindows ?? [], venue, now);
  return {
    account: terms.id,
    day: formatDay(tradingDay(venue, now)),
    netToday: euro(day.net),
    realised: euro(day.realised),
    unrealised: euro(day.unrealised),
    fees: euro(day.fees),
    openRisk: euro(open.known),
    positionsWithoutStop: open.without,
    left: left === null ? null : euro(left),
    dayLossLimit: risk.rules.dayLossLimit === null ? null : euro(risk.rules.dayLossLimit),
    quantityUsed: Object.fromEntries(Object.entries(risk.used).map(([kind, used]) => [kind, formatScaled(used, 8, 0)])),
    losingInARow: risk.losing,
    blocked: [
      ...blocksAt(risk, now).map(({ rule, instrument, since, until, reason }) => ({ rule, instrument, since: isoTime(since), until: isoTime(until), reason })),
      ...(window
        ? [
            {
              rule: 'noTradeWindows' as const,
              instrument: null,
              since: isoTime(window.since),
              until: isoTime(window.until),
              reason: `No opening orders before ${venueMoment(venue, window.until)}: a no-trade window.`,
            },
          ]
        : []),
    ],
    closeOut: risk.closeOut?.state ?? null,
    nextWindow: isoOrNull(nextWindow(risk.rules.noTradeWindows ?? [], venue, now)),
    lockedUntil: locks.length === 0 ? null : isoTime(Math.max(...locks.map(([, until]) => until))),
    locks: locks.map(([rule, until]) => ({ rule, until: isoTime(until) })) as RiskStateAnswer['locks'],
    lockOver: lockOver(risk, now),
    broken: risk.broken,
  };
}
