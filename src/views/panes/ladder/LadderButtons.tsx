import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { act, sendsAtOnce, type OrderWish } from '../../../client/gestures/index.ts';
import { $directSend, canTrade } from '../../../client/session.ts';
import type { Instrument } from '../../../core/instrument/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { grouped } from '../../../kit/Figure.tsx';
import { followQuote, type LiveOrder } from '../../../live/index.ts';
import { type Target } from '../../workspace/panes.ts';

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
  orders: readonly LiveOrder[];
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
  const buys = orders.filter((order) => order.side === 'buy').length;
  const sells = orders.length - buys;
  const atBest = (side: 'buy' | 'sell', price: string | null) => (
    <AtBest id={id} target={target} instrument={instrument} side={side} size={size} price={price} />
  );
  return (
    <div className="grid shrink-0 grid-cols-3 gap-1 p-1">
      {atBest('buy', best.ask)}
      <Button
        className="truncate"
        broken={direct === 'off'}
        disabled={held === 0}
        onClick={() => act(id, 'ladder', { kind: 'close', account, instrument: instrument.id })}
      >
        {held === 0 ? 'nothing to close' : `close ${grouped(String(Math.abs(held)))}`}
      </Button>
      {atBest('sell', best.bid)}
      <Button disabled={buys === 0} onClick={() => act(id, 'ladder', { kind: 'cancel-many', account, instrument: instrument.id, side: 'buy' })}>
        cancel buys {buys}
      </Button>
      <Button disabled={orders.length === 0} onClick={() => act(id, 'ladder', { kind: 'cancel-many', account, instrument: instrument.id })}>
        cancel all {orders.length}
      </Button>
      <Button disabled={sells === 0} onClick={() => act(id, 'ladder', { kind: 'cancel-many', account, instrument: instrument.id, side: 'sell' })}>
        cancel sells {sells}
      </Button>
      <Button
        className="col-span-2"
        disabled={direct === 'off' || held === 0 || instrument.kind === 'spot'}
        title={instrument.kind === 'spot' ? 'a spot position is never short' : undefined}
        onClick={() => act(id, 'ladder', { kind: 'reverse', account, instrument: instrument.id })}
      >
        {held === 0 ? 'reverse' : `reverse: ${held > 0 ? 'sells' : 'buys'} ${grouped(String(2 * Math.abs(held)))}`}
      </Button>
      <Button
        disabled={direct === 'off' || (held === 0 && orders.length === 0)}
        title={direct === 'off' ? 'direct send is off: close opens the slip' : undefined}
        onClick={() => act(id, 'ladder', { kind: 'flatten', account, instrument: instrument.id })}
      >
        flatten
      </Button>
    </div>
  );
}

interface AtBestProps {
  readonly id: string;
  readonly target: Target;
  readonly instrument: Instrument;
  readonly side: 'buy' | 'sell';
  readonly size: string;
  readonly price: string | null;
}

/** Take or hit: a limit at the other side's best price. What it said when it was pressed is meant; at another price by now it is refused. */
function AtBest({ id, target: { account }, instrument, side, size, price }: AtBestProps) {
  const shown = useRef<string | null>(null);
  const wish = (limitPrice: string): OrderWish => ({ account, instrument: instrument.id, side, type: 'limit', quantity: size, limitPrice });
  const send = (): void => {
    const pressed = shown.current ?? price;
    shown.current = null;
    if (price === null) return;
    if (pressed !== price) answer(id, 'refused', `the best price was ${pressed ?? '–'} and is ${price} now; nothing was sent`);
    else act(id, 'ladder', { kind: 'place', wish: wish(price) });
  };
  return (
    <Button
      tone={side}
      broken={price === null || !sendsAtOnce('ladder', wish(price))}
      disabled={price === null || !canTrade(account, instrument.id)}
      onPointerDown={() => (shown.current = price)}
      onClick={send}
    >
      {side === 'buy' ? 'take' : 'hit'} {price ?? '–'}
    </Button>
  );
}
