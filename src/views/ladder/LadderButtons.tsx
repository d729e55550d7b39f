import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import type { Instrument } from '../../core/instrument/index.ts';
import { grouped } from '../../kit/Figure.tsx';
import { followQuote, type ApiOrder } from '../../live/index.ts';
import { route } from '../act/route.ts';
import { cancelMany, closePosition, flatten } from '../act/send.ts';
import { openSlip } from '../slip/slip-store.ts';
import { $directSend, canTrade, type Target } from '../workspace/panes.ts';

/** Take and hit at the best prices, and the ways out of this instrument. */
export function LadderButtons({
  id,
  target,
  instrument,
  size,
  held,
  orders,
}: {
  id: string;
  target: Target;
  instrument: Instrument;
  size: string;
  held: number;
  orders: readonly ApiOrder[];
}) {
  const direct = useStore($directSend).ladder;
  const { account } = target;
  const [best, setBest] = useState<{ bid: string | null; ask: string | null }>({ bid: null, ask: null });
  useEffect(
    () =>
      followQuote(instrument.id, ({ text }) =>
        setBest((before) => (before.bid === text.bid && before.ask === text.ask ? before : { bid: text.bid, ask: text.ask })),
      ),
    [instrument.id],
  );
  const take = (side: 'buy' | 'sell', price: string | null): void => {
    if (price !== null) route(id, 'ladder', { account, instrument: instrument.id, side, type: 'limit', quantity: size, limitPrice: price });
  };
  const buys = orders.filter((order) => order.side === 'buy').length;
  const sells = orders.length - buys;
  const entries = direct === 'all' ? '' : 'opens-slip';
  const exits = direct === 'off' ? 'opens-slip' : '';
  const close = (): void => {
    if (direct !== 'off') void closePosition(id, account, instrument.id);
    else
      openSlip(id, { account, instrument: instrument.id, side: held > 0 ? 'sell' : 'buy', type: 'market', quantity: String(Math.abs(held)), reduceOnly: true });
  };
  const tradable = canTrade(account, instrument.id);
  return (
    <div className="grid shrink-0 grid-cols-3 gap-1 p-1">
      <button type="button" className={`control buy ${entries}`} disabled={best.ask === null || !tradable} onClick={() => take('buy', best.ask)}>
        take {best.ask ?? '–'}
      </button>
      <button type="button" className={`control ${exits}`} disabled={held === 0} onClick={close}>
        {held === 0 ? 'nothing to close' : `close ${grouped(String(Math.abs(held)))}`}
      </button>
      <button type="button" className={`control sell ${entries}`} disabled={best.bid === null || !tradable} onClick={() => take('sell', best.bid)}>
        hit {best.bid ?? '–'}
      </button>
      <button type="button" className="control" disabled={buys === 0} onClick={() => void cancelMany(id, account, instrument.id, 'buy')}>
        cancel buys {buys}
      </button>
      <button
        type="button"
        className="control"
        disabled={direct === 'off' || (held === 0 && orders.length === 0)}
        title={direct === 'off' ? 'direct send is off: close opens the slip' : undefined}
        onClick={() => void flatten(id, account, instrument.id)}
      >
        flatten
      </button>
      <button type="button" className="control" disabled={sells === 0} onClick={() => void cancelMany(id, account, instrument.id, 'sell')}>
        cancel sells {sells}
      </button>
    </div>
  );
}
