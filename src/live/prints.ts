import type { ApiTrade } from './shapes.ts';
import { follow } from './stream.ts';

/** A print as a window shows it. */
export interface LivePrint {
  readonly seq: number;
  readonly time: number;
  readonly side: 'buy' | 'sell';
  readonly price: string;
  readonly quantity: string;
}

const read = ({ seq, time, side, price, quantity }: ApiTrade): LivePrint => ({ seq, time: Date.parse(time), side, price, quantity });

/** Follows an instrument's prints: all of them, each once, in their order. `anew` begins again from a snapshot. */
export function followPrints(id: string, listener: (prints: readonly LivePrint[], anew: boolean) => void): () => void {
  let newest = -1;
  return follow<readonly ApiTrade[] | null>(`trades:${id}`, (data, snapshot) => {
    if (!data) return;
    if (snapshot && (data[data.length - 1]?.seq ?? 0) < newest) newest = -1;
    const fresh = data.filter(({ seq }) => seq > newest).map(read);
    if (fresh.length === 0) return;
    const gap = snapshot && newest >= 0 && (fresh[0]?.seq ?? 0) > newest + 1;
    const anew = newest < 0 || gap;
    newest = fresh[fresh.length - 1]?.seq ?? newest;
    listener(fresh, anew);
  });
}
