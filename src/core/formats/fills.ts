/** A fill as text, field by field; decimals and times are already written out. */
export interface FillText {
  readonly id: string;
  readonly seq: number;
  readonly time: string;
  readonly orderId: string;
  readonly clientOrderId: string;
  readonly account: string;
  readonly instrument: string;
  readonly side: 'buy' | 'sell';
  readonly role: string;
  readonly quantity: string;
  readonly price: string;
  readonly fee: string;
  readonly feeCurrency: string;
  readonly realised: string;
  readonly currency: string;
  readonly liquidity: 'added' | 'removed';
}

/** What else an execution report says of the order a fill belongs to. */
export interface ReportedOrder {
  readonly quantity: string;
  readonly filledQuantity: string;
  readonly remainingQuantity: string;
  readonly averagePrice: string;
  readonly done: boolean;
}

const SOH = '\x01';
const fixTime = (iso: string): string => iso.replace(/-/g, '').replace('T', '-').replace('Z', '');

/** Values may hold anything but the separator. */
const clean = (value: string): string => value.replaceAll(SOH, ' ');

/**
 * A fill as a FIX.4.4 execution report (35=8), with BodyLength and CheckSum (FIX 4.4, volume 1).
 *
 * @param order how the order stood after this fill
 * @returns the message, its fields separated by SOH
 */
export function fixExecutionReport(fill: FillText, order: ReportedOrder): string {
  const dot = fill.instrument.lastIndexOf('.');
  const fields: [number, string][] = [
    [35, '8'],
    [49, 'KAVIX'],
    [56, fill.account],
    [34, String(fill.seq)],
    [52, fixTime(fill.time)],
    [37, fill.orderId],
    [11, fill.clientOrderId],
    [17, fill.id],
    [150, 'F'],
    [39, order.done ? '2' : '1'],
    [1, fill.account],
    [55, fill.instrument.slice(0, dot)],
    [207, fill.instrument.slice(dot + 1)],
    [54, fill.side === 'buy' ? '1' : '2'],
    [38, order.quantity],
    [32, fill.quantity],
    [31, fill.price],
    [151, order.remainingQuantity],
    [14, order.filledQuantity],
    [6, order.averagePrice],
    [60, fixTime(fill.time)],
    [12, fill.fee],
    [13, '3'],
    [479, fill.feeCurrency],
    [851, fill.liquidity === 'added' ? '1' : '2'],
  ];
  const body = fields.map(([tag, value]) => `${tag}=${clean(value)}${SOH}`).join('');
  const head = `8=FIX.4.4${SOH}9=${new TextEncoder().encode(body).length}${SOH}`;
  const sum = new TextEncoder().encode(head + body).reduce((total, byte) => (total + byte) % 256, 0);
  return `${head}${body}10=${String(sum).padStart(3, '0')}${SOH}`;
}
