import { formatQuantity, parseQuantity, asQuantity } from '../../../../../core/instrument/index.ts';
import type { CloseAmount } from '../../../../../core/desk/index.ts';
import { parseScaled } from '../../../../../core/number/index.ts';
import { endpoint, type Call } from '../../../_endpoint.ts';
import { placedAnswer, unreadable } from '../../../_order.ts';
import { notFound } from '../../../_problem.ts';
import { invalid, type Refusal } from '../../../../../core/orders/index.ts';
import { accepted, refused, type Result } from '../../../../../core/result.ts';
import type { Instrument } from '../../../../../core/instrument/index.ts';

const HUNDRED = 100n * 10n ** 8n;

/** How much a body asks to close. */
function readAmount(instrument: Instrument, { quantity, percent }: { quantity?: string; percent?: string }): Result<CloseAmount, Refusal> {
  if (percent !== undefined) {
    const share = parseScaled(percent, 8);
    if (share === null || share <= 0n || share > HUNDRED) return refused(invalid('/percent', 'must be above 0 and at most 100, with at most 8 decimals'));
    return accepted({ kind: 'percent', share });
  }
  if (quantity === undefined) return accepted({ kind: 'all' });
  const read = parseQuantity(instrument, quantity);
  if (read !== null && read >= instrument.minimumQuantity) return accepted({ kind: 'quantity', quantity: read });
  const step = formatQuantity(instrument, asQuantity(1));
  return refused(invalid('/quantity', `must be a multiple of ${step}, at least ${formatQuantity(instrument, instrument.minimumQuantity)}`));
}

export const ALL = endpoint('/api/positions/{account}/{instrument}/close', {
  POST: async (call: Call) => {
    const account = call.parameter('account');
    const instrument = call.desk.market.find(call.parameter('instrument'));
    if (!call.accounts.includes(account) || !instrument) return notFound();
    const body = call.body as { quantity?: string; percent?: string; clientOrderId?: string };
    const amount = readAmount(instrument, body);
    const instrumentId = instrument.id;
    if (!amount.ok)
      return unreadable(call, account, { what: `close of ${instrumentId}`, asked: body, instrument: instrumentId, orderId: null, refusal: amount.refusal });
    return placedAnswer(
      call,
      await call.desk.ask(account, { kind: 'close', instrument: instrument.id, amount: amount.value, clientOrderId: body.clientOrderId ?? null }),
    );
  },
});
