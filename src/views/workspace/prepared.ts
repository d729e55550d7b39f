import { WORKSPACE_FORMAT } from '../../schemas/saved.ts';
import type { Part, WorkspaceDocument } from './arrangement.ts';
import type { LinkLetter, Linked, Pane, PaneKind } from './panes.ts';

type Given = { letter?: LinkLetter | null; intervalLetter?: LinkLetter | null; instrument?: string; account?: string; settings?: Record<string, unknown> };

/** Builds a document: panes are named as they are placed. */
class Sheet {
  readonly panes: Record<string, Omit<Pane, 'id'>> = {};
  private count = 0;
  private readonly account: string;

  constructor(account: string) {
    this.account = account;
  }

  pane(kind: PaneKind, given: Given = {}): string {
    const id = `p${++this.count}`;
    this.panes[id] = {
      kind,
      letter: given.letter === undefined ? 'A' : given.letter,
      intervalLetter: given.intervalLetter ?? null,
      instrument: given.instrument ?? null,
      account: given.account ?? this.account,
      settings: given.settings ?? {},
    };
    return id;
  }

  stack(size: number, ...ids: string[]): Part {
    return { stack: ids, active: ids[0] ?? '', size };
  }
}

const split = (size: number, ...parts: Part[]): Part => ({ split: parts, size });

function finish(sheet: Sheet, letters: Partial<Record<LinkLetter, Linked>>, layout: Part): WorkspaceDocument {
  return { format: WORKSPACE_FORMAT, panes: sheet.panes, letters, layout, direction: 'row', windows: [] };
}

const NARROW_ORDERS = { columns: ['price', 'state', 'waits', 'account'] };

function oneInstrument(): WorkspaceDocument {
  const s = new Sheet('MAIN');
  return finish(
    s,
    { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
    split(
      0,
      split(284, s.stack(354, s.pane('Watchlist')), s.stack(318, s.pane('Ticket'))),
      split(
        614,
        s.stack(388, s.pane('Chart', { settings: { interval: '5m' } })),
        s.stack(158, s.pane('Orders'), s.pane('Exit plans')),
        s.stack(126, s.pane('Positions'), s.pane('Fills'), s.pane('Time & sales'), s.pane('Depth'), s.pane('News')),
      ),
      split(356, s.stack(1, s.pane('Ladder'))),
    ),
  );
}

function manyInstruments(): WorkspaceDocument {
  const s = new Sheet('MAIN');
  return finish(
    s,
    {
      A: { instrument: 'GANET.HALM', account: 'MAIN' },
      B: { instrument: 'KELPA.HALM', account: 'MAIN' },
      C: { instrument: 'BRINE.HALM', account: 'MAIN' },
      H: { instrument: 'GANET.HALM', account: 'MAIN', interval: '5m' },
    },
    split(
      0,
      split(
        620,
        s.stack(360, s.pane('Quote table')),
        s.stack(
          312,
          s.pane('Live list', { settings: { list: 'risers', filter: { kind: 'share' } } }),
          s.pane('Live list', { settings: { list: 'fallers', filter: { kind: 'share' } } }),
          s.pane('News', { letter: null, settings: { all: true } }),
        ),
      ),
      split(
        620,
        s.stack(224, s.pane('Chart', { intervalLetter: 'H' })),
        s.stack(224, s.pane('Chart', { letter: 'B', intervalLetter: 'H' })),
        s.stack(224, s.pane('Chart', { letter: 'C', intervalLetter: 'H' })),
      ),
    ),
  );
}

function futuresLadder(): WorkspaceDocument {
  const s = new Sheet('EVAL');
  return finish(
    s,
    {
      A: { instrument: 'HALM40M-JUN26.HALM', account: 'EVAL' },
      B: { instrument: 'SALMO-JUN26.HALM', account: 'EVAL' },
    },
    split(
      0,
      split(360, s.stack(1, s.pane('Ladder'))),
      split(
        520,
        s.stack(330, s.pane('Chart', { settings: { interval: '1m' } })),
        s.stack(200, s.pane('Chart', { letter: 'B', settings: { interval: '5m' } })),
        s.stack(
          142,
          s.pane('Positions', { settings: { columns: ['account', 'mark', 'open', 'net'] } }),
          s.pane('Orders', { settings: NARROW_ORDERS }),
          s.pane('Fills'),
          s.pane('Instrument card'),
        ),
      ),
      split(360, s.stack(460, s.pane('Ladder', { letter: 'B' })), s.stack(212, s.pane('Time & sales'))),
    ),
  );
}

function nightMarket(): WorkspaceDocument {
  const s = new Sheet('NIGHT');
  return finish(
    s,
    { A: { instrument: 'CARB-EUR.VSPR', account: 'NIGHT' }, B: { instrument: 'CARBI.VSPR', account: 'NIGHT' } },
    split(
      0,
      split(
        560,
        s.stack(336, s.pane('Chart', { settings: { interval: '15m' } })),
        s.stack(336, s.pane('Chart', { letter: 'B', settings: { interval: '15m' } })),
      ),
      split(324, s.stack(430, s.pane('Depth')), s.stack(242, s.pane('Time & sales'))),
      split(
        356,
        s.stack(430, s.pane('Ladder')),
        s.stack(
          242,
          s.pane('Positions', { settings: { columns: ['open'] } }),
          s.pane('Orders', { settings: { columns: ['price', 'waits'] } }),
          s.pane('Ticket'),
        ),
      ),
    ),
  );
}

/** What a chart room has on its walls: four charts, ladder, depth, prints, a list and the news. */
function fourCharts(): WorkspaceDocument {
  const s = new Sheet('MAIN');
  const chart = (interval: string): string => s.pane('Chart', { settings: { interval } });
  return finish(
    s,
    { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
    split(
      0,
      split(271, s.stack(300, s.pane('Watchlist')), s.stack(212, s.pane('Depth')), s.stack(160, s.pane('News'))),
      split(311, s.stack(336, chart('1m')), s.stack(336, chart('5m'))),
      split(311, s.stack(336, chart('15m')), s.stack(336, chart('1d'))),
      split(356, s.stack(430, s.pane('Ladder')), s.stack(242, s.pane('Time & sales'))),
    ),
  );
}

/** Where instruments are looked for: a scan, what it finds on a chart, alerts and headlines. */
function finding(): WorkspaceDocument {
  const s = new Sheet('MAIN');
  return finish(
    s,
    { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
    split(
      0,
      split(760, s.stack(430, s.pane('Scanner')), s.stack(242, s.pane('Alerts'), s.pane('Live list', { settings: { list: 'unusually active' } }))),
      split(504, s.stack(400, s.pane('Chart', { settings: { interval: '5m' } })), s.stack(272, s.pane('News', { settings: { all: true } }))),
    ),
  );
}

/** Where many orders are made one: a basket, the options of what is looked at, and what came of it. */
function baskets(): WorkspaceDocument {
  const s = new Sheet('MAIN');
  return finish(
    s,
    { A: { instrument: 'GANET.HALM', account: 'MAIN' } },
    split(
      0,
      split(
        1264,
        s.stack(340, s.pane('Basket')),
        split(332, s.stack(520, s.pane('Option chain')), s.stack(744, s.pane('Orders'), s.pane('Fills'), s.pane('Positions'), s.pane('Chart'))),
      ),
    ),
  );
}

export const EMPTY: WorkspaceDocument = { format: WORKSPACE_FORMAT, panes: {}, letters: {}, layout: null, direction: 'row', windows: [] };

/** Workspaces that Kavix brings along, by name. */
export const PREPARED: Readonly<Record<string, () => WorkspaceDocument>> = {
  'One instrument': oneInstrument,
  'Many instruments': manyInstruments,
  'Four charts': fourCharts,
  Finding: finding,
  'Baskets and options': baskets,
  'Futures ladder': futuresLadder,
  'Night market': nightMarket,
};
