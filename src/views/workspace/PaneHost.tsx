import { useStore } from '@nanostores/react';
import { useEffect, useRef, type ReactElement } from 'react';
import { ChartPane } from '../chart/ChartPane.tsx';
import { LadderPane } from '../ladder/LadderPane.tsx';
import { FillsPane } from '../lists/FillsPane.tsx';
import { LiveListPane } from '../lists/LiveListPane.tsx';
import { OrdersPane } from '../lists/OrdersPane.tsx';
import { PositionsPane } from '../lists/PositionsPane.tsx';
import { WatchlistPane } from '../lists/WatchlistPane.tsx';
import { CardPane } from '../market/CardPane.tsx';
import { DepthPane } from '../market/DepthPane.tsx';
import { NewsPane } from '../market/NewsPane.tsx';
import { PrintsPane } from '../market/PrintsPane.tsx';
import { QuoteTablePane } from '../quotes/QuoteTablePane.tsx';
import { TicketPane } from '../ticket/TicketPane.tsx';
import { takesInstrument } from './drag.ts';
import { setting } from './pane-settings.ts';
import { $activePane, $letters, $panes, activate, setInstrument, targetOf, type PaneKind } from './panes.ts';

const PANES: Readonly<Record<PaneKind, (props: { id: string }) => ReactElement | null>> = {
  Chart: ChartPane,
  Ladder: LadderPane,
  Depth: DepthPane,
  'Time & sales': PrintsPane,
  'Quote table': QuoteTablePane,
  Watchlist: WatchlistPane,
  'Live list': LiveListPane,
  News: NewsPane,
  'Instrument card': CardPane,
  Ticket: TicketPane,
  Orders: OrdersPane,
  Positions: PositionsPane,
  Fills: FillsPane,
};

/** One pane: a region with a name, which becomes active by a press inside it. `onPressed` follows the press. */
export function PaneHost({ id, onPressed }: { id: string; onPressed?: () => void }) {
  const panes = useStore($panes);
  useStore($letters);
  const pane = panes[id];
  const host = useRef<HTMLElement>(null);
  const active = useStore($activePane) === id;
  useEffect(() => {
    host.current?.closest('.dv-groupview')?.classList.toggle('active-pane', active);
  }, [active]);
  if (!pane) return null;
  const target = targetOf(id);
  const View = PANES[pane.kind];
  return (
    <section
      ref={host}
      role="region"
      tabIndex={-1}
      aria-label={`${pane.kind}${target ? ` ${target.instrument}` : ''}`}
      data-pane={id}
      data-density={setting<string>(pane, 'density')}
      data-colours={setting<string>(pane, 'colours')}
      style={{ fontSize: `${setting<string>(pane, 'size')}px` }}
      className="h-full overflow-hidden bg-pane outline-none"
      onPointerDownCapture={() => activate(id)}
      onPointerUpCapture={onPressed}
      onFocusCapture={() => activate(id)}
      {...takesInstrument((dropped) => {
        setInstrument(id, dropped);
        activate(id);
      })}
    >
      <View id={id} />
    </section>
  );
}
