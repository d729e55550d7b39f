import type { GridColumn } from '../../../kit/Grid.tsx';
import { instrumentOf, type ApiPosition } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';

const GREEKS = ['delta', 'gamma', 'theta', 'vega'] as const;
type Greek = (typeof GREEKS)[number];

const AGAIN_MS = 2000;
const PLACES: Readonly<Record<Greek, number>> = { delta: 1, gamma: 2, theta: 2, vega: 2 };
const WORDS: Readonly<Record<Greek, string>> = {
  delta: 'units of the underlying that move as this does',
  gamma: 'how delta changes per 1.00 of the underlying',
  theta: 'EUR a calendar day',
  vega: 'EUR per percentage point of volatility',
};

/** A greek of a whole position: an option's, times contracts and multiplier; what is the underlying itself has delta alone. */
function GreekCell({ position, greek }: { position: ApiPosition; greek: Greek }) {
  const instrument = instrumentOf(position.instrument);
  const isOption = instrument?.kind === 'option' && instrument.underlying !== null;
  const { data: chain } = useAsked(
    'GET /api/options/{underlying}',
    { path: { underlying: instrument?.underlying ?? '' }, query: { expiry: instrument?.expiry ?? undefined } },
    { when: isOption && position.quantity !== '0', everyMs: AGAIN_MS },
  );
  if (!instrument || position.quantity === '0') return '';
  const said = (value: number): string => value.toFixed(PLACES[greek]).replace('-', '−');
  if (!isOption) return greek === 'delta' && (instrument.kind === 'share' || instrument.kind === 'fund') ? said(Number(position.quantity)) : '';
  const cell = chain?.rows.flatMap(({ call, put }) => [call, put]).find((one) => one?.instrument === position.instrument);
  const of = cell?.[greek];
  return of == null ? '–' : said(Number(of) * Number(position.quantity) * instrument.multiplier);
}

export const GREEK_COLUMNS: readonly GridColumn<ApiPosition>[] = GREEKS.map((greek) => ({
  id: greek,
  head: greek,
  figure: true,
  cell: (position) => <GreekCell position={position} greek={greek} />,
  cellProps: () => ({ title: WORDS[greek] }),
}));

/** What a position is of: an option's underlying, else itself. */
export const underlyingOf = ({ instrument }: ApiPosition): string => instrumentOf(instrument)?.underlying ?? instrument;
