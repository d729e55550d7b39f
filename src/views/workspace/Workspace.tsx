import { useStore } from '@nanostores/react';
import { DockviewReact, type IDockviewHeaderActionsProps, type IDockviewPanelHeaderProps, type IDockviewPanelProps } from 'dockview-react';
import { useEffect, useRef, type ReactElement } from 'react';
import { ChartPane } from '../chart/ChartPane.tsx';
import { LadderPane } from '../ladder/LadderPane.tsx';
import { FillsPane } from '../lists/FillsPane.tsx';
import { OrdersPane } from '../lists/OrdersPane.tsx';
import { PositionsPane } from '../lists/PositionsPane.tsx';
import { WatchlistPane } from '../lists/WatchlistPane.tsx';
import { TicketPane } from '../ticket/TicketPane.tsx';
import { attach, walkPanes } from './layout.ts';
import { $activePane, $letters, $panes, activate, targetOf, type PaneKind } from './panes.ts';
import { PaneActions, PaneWord } from './PaneTitle.tsx';

const PANES: Readonly<Record<PaneKind, (props: { id: string }) => ReactElement | null>> = {
  Watchlist: WatchlistPane,
  Chart: ChartPane,
  Ladder: LadderPane,
  Ticket: TicketPane,
  Orders: OrdersPane,
  Positions: PositionsPane,
  Fills: FillsPane,
};

/** One pane: a region with a name, which becomes active by a press inside it. */
function PaneHost({ api }: IDockviewPanelProps) {
  const { id } = api;
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
      className="h-full overflow-hidden bg-pane outline-none"
      onPointerDownCapture={() => activate(id)}
      // Docking lays the pane anew when it becomes active, which would swallow the click: after it, then.
      onPointerUpCapture={() => setTimeout(() => !api.isActive && api.setActive())}
      onFocusCapture={() => activate(id)}
      onKeyDown={(event) => findByLetters(event, target !== null)}
    >
      <View id={id} />
    </section>
  );
}

/** Letters typed in a pane with an instrument open the look-up with them. */
function findByLetters(event: React.KeyboardEvent, hasInstrument: boolean): void {
  const at = event.target as HTMLElement;
  const plain = !event.ctrlKey && !event.altKey && !event.metaKey && event.key.length === 1 && /[a-zA-Z]/.test(event.key);
  if (!plain || !hasInstrument || at.matches('input, textarea, select, button') || event.defaultPrevented) return;
  event.preventDefault();
  window.dispatchEvent(new CustomEvent('kavix-find', { detail: event.key }));
}

const components = { pane: PaneHost };
const PaneTab = (props: IDockviewPanelHeaderProps) => <PaneWord id={props.api.id} />;
const RightActions = (props: IDockviewHeaderActionsProps) => (props.activePanel ? <PaneActions panel={props.activePanel} /> : null);

export function Workspace() {
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key !== 'F8') return;
      event.preventDefault();
      walkPanes(event.shiftKey ? -1 : 1);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <main className="min-h-0 flex-1 px-2 pb-2" aria-label="Workspace">
      <DockviewReact
        className="kavix-dock"
        theme={{ name: 'kavix', className: 'kavix-dock', gap: 6 }}
        components={components}
        defaultTabComponent={PaneTab}
        rightHeaderActionsComponent={RightActions}
        disableFloatingGroups
        disableTabsOverflowList
        onReady={({ api }) => attach(api)}
      />
    </main>
  );
}
