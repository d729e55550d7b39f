import type { LotMethod } from '../../../../core/backoffice/index.ts';
import { formatDay, parseDay, tradingDay } from '../../../../core/market/index.ts';
import { NO_MONEY, formatMoney, plus } from '../../../../core/number/index.ts';
import { presentLot } from '../../../../desk/backoffice/present.ts';
import { closedLot } from '../../../../schemas/backoffice.ts';
import { csv, endpoint, json } from '../../_endpoint.ts';
import { notFound } from '../../_problem.ts';

export const ALL = endpoint('/api/reports/realised/{account}', {
  GET: async (call) => {
    const account = call.parameter('account');
    if (!call.accounts.includes(account)) return notFound();
    const yearOf = (instrument: string, time: number): string => formatDay(tradingDay(call.desk.instrument(instrument).venue, time)).slice(0, 4);
    const year = String(call.query['year'] ?? formatDay(tradingDay('HALM', call.desk.now())).slice(0, 4));
    const method = (call.query['method'] ?? 'fifo') as LotMethod;
    const days = { from: parseDay(`${year}-01-01`), to: parseDay(`${year}-12-31`) };
    const closed = (await call.past.closedLots(account, method, days)).filter((lot) => yearOf(lot.instrument, lot.closedAt) === year);
    const items = closed.map((lot) => presentLot(call.desk.instrument(lot.instrument), lot));
    if (call.query['format'] === 'csv') return csv('realised', closedLot.required, items);
    let total = NO_MONEY;
    for (const lot of closed) total = plus(total, await call.review.inEuroAt(call.desk.instrument(lot.instrument), lot.result, lot.closedAt));
    return json(200, { items, total: formatMoney(total, 'EUR') });
  },
});
