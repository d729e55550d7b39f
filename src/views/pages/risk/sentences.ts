import type { RulesText } from '../../../core/risk/index.ts';
import { weekdayOf } from '../../../kit/clock.ts';

const IN_DAYS = { mon: 'Mondays', tue: 'Tuesdays', wed: 'Wednesdays', thu: 'Thursdays', fri: 'Fridays', sat: 'Saturdays', sun: 'Sundays' } as const;

/**
 * Each rule in one sentence with its own figures: what happens, when, and what stays possible.
 *
 * @param day the trading day that is spoken of, like 2026-03-02
 */
export function sentencesOf(rules: RulesText, day: string): string[] {
  const said: string[] = [];
  const rest = `for the rest of ${weekdayOf(day)} (until 00:00)`;
  const say = (when: unknown, sentence: string): void => void (when && said.push(sentence));
  const then = (act: RulesText['onDayLoss'], of: string): string =>
    act === 'close-out'
      ? `cancels opening orders, closes ${of} and takes no opening order ${rest}`
      : `cancels opening orders and takes none ${rest}; ${of} ${of === 'all positions' ? 'stay' : 'stays'} open`;
  say(rules.dayLossLimit, `If today’s net result reaches −${rules.dayLossLimit}, Kavix ${then(rules.onDayLoss, 'all positions')}.`);
  say(
    rules.instrumentLossLimit,
    `If one instrument’s net result reaches −${rules.instrumentLossLimit}, Kavix does so for that instrument: it ${then(rules.onInstrumentLoss, 'its position')}.`,
  );
  for (const [kind, cap] of Object.entries(rules.dayQuantityCap ?? {}))
    said.push(`At most ${cap} ${kind} units a day, bought and sold together; then no opening orders in ${kind}s until 00:00.`);
  for (const { from, to, days } of rules.noTradeWindows ?? [])
    said.push(`From ${from} to ${to} exchange time${days ? ` on ${days.map((day) => IN_DAYS[day]).join(', ')}` : ''} no opening order is taken.`);
  say(rules.maxOrderQuantity, `No opening order for more than ${rules.maxOrderQuantity}.`);
  say(rules.maxOrderValue, `No opening order worth more than ${rules.maxOrderValue} EUR.`);
  say(rules.maxDistancePercent, `No opening order further than ${rules.maxDistancePercent} % from the market.`);
  say(rules.maxOrdersPerMinute, `At most ${rules.maxOrdersPerMinute} opening orders a minute.`);
  say(rules.maxPositionQuantity, `No position beyond ${rules.maxPositionQuantity}, working orders counted.`);
  say(
    rules.coolDownMinutes,
    `${rules.coolDownAfterLosses ? `After ${rules.coolDownAfterLosses} losing round trips in a row, or an` : 'After an'} instrument’s limit, no opening order for ${rules.coolDownMinutes} minutes.`,
  );
  say(rules.openRisk, `An order that could lose more at its stops than is left of the day ${rules.openRisk === 'refuse' ? 'is refused' : 'is warned about'}.`);
  if (said.length === 0) said.push('No rule is set: nothing stops an opening order but the buying power.');
  said.push('Closing is always possible, by every surface, key and call.');
  return said;
}
