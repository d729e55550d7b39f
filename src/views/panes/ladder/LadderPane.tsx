import { useStore } from '@nanostores/react';
import { useEffect, useLayoutEffect, useMemo, useRef } from 'react';
import { moveOrder, act } from '../../../client/gestures/index.ts';
import { $directSend, $sizes, sizeOf } from '../../../client/session.ts';
import { NO_QUANTITY, formatPrice, parseQuantity, type Instrument } from '../../../core/instrument/index.ts';
import { $positions, $working, NO_ORDERS, instrumentOf, positionKey } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { LegalOrders } from '../../act/LegalOrders.tsx';
import { WORDS_LINE } from '../../act/words-line.ts';
import { $letters, $panes, targetOf, type Target } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { LadderController } from './controller.ts';
import { LadderButtons } from './LadderButtons.tsx';
import { Halted, OutOfView } from './market-marks.tsx';
import { Pins } from './Pins.tsx';
import { RESULT_PX } from './rows.ts';
import { LADDER } from './settings.ts';
import { SizeKeys } from './SizeKeys.tsx';
import './ladder.css';

/** A vertical axis of prices with depth and one's own orders; a press rests an order. */
export default function LadderPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const instrument = target ? instrumentOf(target.instrument) : undefined;
  if (!target || !instrument) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  // A new target is a new ladder: nothing of the old one is carried over.
  return <Ladder key={`${target.instrument} ${target.account}`} id={id} target={target} instrument={instrument} />;
}

function Ladder({ id, target, instrument }: { id: string; target: Target; instrument: Instrument }) {
  const { account } = target;
  const key = positionKey(account, instrument.id);
  const ladder = useMemo(() => new LadderController({ pane: id, account, instrument }), [id, account, instrument]);
  const own = useStore($working, { keys: [key] })[key] ?? NO_ORDERS;
  const held = useStore($positions, { keys: [key] })[key]?.units.quantity ?? 0;
  const direct = useStore($directSend).ladder;
  useStore($sizes);
  const size = sizeOf(account, instrument.id);
  const parts = useSettings(useStore($panes)[id], LADDER);
  const prices = useStore(ladder.$prices);
  const ringed = useStore(ladder.$ringed);
  const menu = useStore(ladder.$menu);
  const body = useRef<HTMLDivElement>(null);
  useLayoutEffect(() => ladder.stands(prices), [ladder, prices]);
  useEffect(() => (body.current ? ladder.mount(body.current) : undefined), [ladder]);
  usePaneCommands(id, ladder.commands());
  return (
    <div className="flex h-full flex-col outline-none" tabIndex={0} role="group" aria-label="Ladder prices">
      {parts.sizes && <SizeKeys instrument={instrument} account={account} held={held} />}
      <div
        ref={body}
        className={`ladder relative min-h-0 flex-1 overflow-hidden ${direct === 'all' ? 'sends' : 'slips'}`}
        data-testid="ladder-body"
        data-order-area
        style={ladderColumns(parts)}
      >
        {prices.length === 0 && <div className="skeleton absolute inset-0" role="status" aria-label="Loading prices" />}
        {prices.map((price) => (
          <div key={price} className="ladder-row" data-price={price}>
            <span />
            <span className="bid figure" />
            <span className="spine figure">{price > 0 ? formatPrice(instrument, price) : ''}</span>
            <span className="ask figure" />
            <span />
            <span className="result figure" />
          </div>
        ))}
        <div data-ghost className="ladder-ghost" hidden aria-hidden="true" />
        {parts.pins && (
          <Pins
            orders={own}
            prices={prices}
            instrument={instrument}
            ringed={ringed}
            onRing={(order) => ladder.$ringed.set(order)}
            onCancel={(order) => act(id, 'ladder', { kind: 'cancel', order })}
            onMove={(order, price) => moveOrder(id, 'ladder', order, price, instrument)}
          />
        )}
        <OutOfView prices={prices} instrument={instrument} />
        {menu && (
          <LegalOrders
            at={menu}
            instrument={instrument}
            account={account}
            pane={id}
            quantity={parseQuantity(instrument, size) ?? NO_QUANTITY}
            onDone={() => ladder.$menu.set(null)}
          />
        )}
        <Halted instrument={instrument} />
        <p data-ghost-words className={WORDS_LINE} aria-live="off" />
      </div>
      {parts.buttons && <LadderButtons id={id} target={target} instrument={instrument} size={size} held={held} orders={own} />}
    </div>
  );
}

/** The widths of the parts; what is hidden has none. Its outer edge stays where pins and ghosts stand. */
const ladderColumns = (parts: { pins: boolean; depth: boolean; result: boolean }): React.CSSProperties =>
  ({
    '--pins': parts.pins ? '64px' : '0px',
    '--depth': parts.depth ? '64px' : '24px',
    '--result': parts.result ? `${RESULT_PX}px` : '0px',
    '--ink-of-depth': parts.depth ? 'inherit' : 'transparent',
  }) as React.CSSProperties;
