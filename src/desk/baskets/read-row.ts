import type { ExitPlanText } from '../../core/exits/index.ts';
import { formatPrice, formatQuantity, tickAt, asPrice, type Instrument, type Price, type Quantity } from '../../core/instrument/index.ts';
import { parsePriceText, readLimit, type PriceText } from '../../core/language/index.ts';
import { readOrder, type FieldProblem, type OrderIntent, type OrderRequest, type Refusal } from '../../core/orders/index.ts';
import { refused, type Result } from '../../core/result.ts';
import type { Desk } from '../desk.ts';
import type { BasketRow } from './things.ts';

/** Finds a saved exit plan by its name; null where there is none. */
export type PlanNamed = (name: string) => Promise<ExitPlanText | null>;

/** A row as the order that it would be: its quantity and limit as they are now. */
export async function readRow(
  row: BasketRow,
  instrument: Instrument,
  clientOrderId: string,
  plan: PlanNamed,
  now: { readonly quantity?: Quantity; readonly limit?: Price | null } = {},
): Promise<Result<OrderIntent, Refusal>> {
  const { id: _id, limitPhrase, exitPlan, ...request } = row;
  const limit =
    now.limit === undefined || now.limit === null
      ? limitPhrase === undefined
        ? request.limitPrice
        : formatPrice(instrument, asPrice(tickAt(instrument, asPrice(1))))
      : formatPrice(instrument, now.limit);
  const order: OrderRequest = {
    ...request,
    clientOrderId,
    ...(now.quantity === undefined ? {} : { quantity: formatQuantity(instrument, now.quantity) }),
    ...(limit === undefined ? {} : { limitPrice: limit }),
  };
  if (exitPlan === undefined) return readOrder(order, instrument);
  if (typeof exitPlan !== 'string') return readOrder({ ...order, exitPlan }, instrument);
  const saved = await plan(exitPlan);
  if (!saved) return refused({ kind: 'validation', errors: [{ path: '/exitPlan', message: `there is no exit plan named ${exitPlan}` }] });
  return readOrder({ ...order, exitPlan: { saved } }, instrument);
}

/** What a row's limit phrase is now; null where it has none. */
export function limitNow(desk: Desk, row: BasketRow): Result<Price | null, Refusal> {
  if (row.limitPhrase === undefined) return { ok: true, value: null };
  const parsed = parsePriceText(row.limitPhrase);
  const read = parsed.ok
    ? readLimit(
        parsed.value,
        row.side,
        desk.instrument(row.instrument),
        desk.quoteOf(row.instrument),
        desk.account(row.account).book.positions[row.instrument] ?? null,
      )
    : parsed;
  if (read.ok) return read;
  return refused({ kind: 'validation', errors: [{ path: '/limitPhrase', message: read.error.message }] });
}

/** What of a basket can be told without a market: shapes, names, steps, grids, types, phrases. */
export async function rowProblems(
  rows: readonly BasketRow[],
  desk: Desk,
  accounts: readonly string[],
  plan: PlanNamed,
): Promise<{ problems: FieldProblem[]; phrases: ReadonlyMap<number, PriceText> }> {
  const problems: FieldProblem[] = [];
  const phrases = new Map<number, PriceText>();
  const ids = new Map<string, number>();
  for (const [i, row] of rows.entries()) {
    const at = `/rows/${i}`;
    const before = ids.get(row.id);
    if (before !== undefined) problems.push({ path: `${at}/id`, message: `${row.id} is the id of row ${before} too` });
    ids.set(row.id, i);
    if (!accounts.includes(row.account))
      problems.push({ path: `${at}/account`, message: `${row.account} is not one of your accounts; accepted: ${accounts.join(', ')}` });
    const instrument = desk.market.find(row.instrument);
    if (!instrument) {
      problems.push({ path: `${at}/instrument`, message: `${row.instrument} is not known` });
      continue;
    }
    if (row.limitPhrase !== undefined) {
      const parsed = parsePriceText(row.limitPhrase);
      if (parsed.ok) phrases.set(i, parsed.value);
      else problems.push({ path: `${at}/limitPhrase`, ...parsed.error });
      if (row.limitPrice !== undefined) problems.push({ path: `${at}/limitPhrase`, message: 'a row has a limit price or a phrase for it, not both' });
      if (row.type !== 'limit' && row.type !== 'stop-limit') problems.push({ path: `${at}/limitPhrase`, message: `a ${row.type} order has no limit` });
    }
    const read = await readRow(row, instrument, 'row', plan);
    if (!read.ok && read.refusal.kind === 'validation') problems.push(...read.refusal.errors.map((error) => ({ ...error, path: `${at}${error.path}` })));
  }
  return { problems, phrases };
}
