import type { PaneKind } from '../workspace/panes.ts';
import { COMMON, type Settings } from '../workspace/settings.ts';
import { activityPane } from './activity/definition.ts';
import { alertsPane } from './alerts/definition.ts';
import { balancesPane } from './balances/definition.ts';
import { chartPane } from './chart/definition.ts';
import type { PaneDefinition } from './definition.ts';
import { depthPane } from './depth/definition.ts';
import { exitPlansPane } from './exit-plans/definition.ts';
import { fillsPane } from './fills/definition.ts';
import { basketPane } from './basket/definition.ts';
import { cardPane } from './instrument-card/definition.ts';
import { ladderPane } from './ladder/definition.ts';
import { liveListPane } from './live-list/definition.ts';
import { newsPane } from './news/definition.ts';
import { optionChainPane } from './option-chain/definition.ts';
import { ordersPane } from './orders/definition.ts';
import { positionsPane } from './positions/definition.ts';
import { quoteTablePane } from './quote-table/definition.ts';
import { scannerPane } from './scanner/definition.ts';
import { ticketPane } from './ticket/definition.ts';
import { printsPane } from './time-and-sales/definition.ts';
import { watchlistPane } from './watchlist/definition.ts';

/** Every kind of pane. */
export const PANES: Readonly<Record<PaneKind, PaneDefinition>> = {
  Chart: chartPane,
  Ladder: ladderPane,
  Depth: depthPane,
  'Time & sales': printsPane,
  'Quote table': quoteTablePane,
  Watchlist: watchlistPane,
  'Live list': liveListPane,
  News: newsPane,
  'Instrument card': cardPane,
  Ticket: ticketPane,
  Orders: ordersPane,
  Positions: positionsPane,
  Fills: fillsPane,
  'Exit plans': exitPlansPane,
  Scanner: scannerPane,
  Alerts: alertsPane,
  Basket: basketPane,
  'Option chain': optionChainPane,
  Activity: activityPane,
  Balances: balancesPane,
};

/** All that a pane of a kind can be set to: its own settings first. */
export const settingsOf = (kind: PaneKind): Settings => ({ ...PANES[kind].settings, ...COMMON });
