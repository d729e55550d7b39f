import { useStore } from '@nanostores/react';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { $positions, instrumentOf, type LivePosition } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { GREEKS, GREEK_WORDS, greekText, greeksWords, type Greek } from './greeks.ts';

const AGAIN_MS = 2000;

/** A greek of a whole position: an option's, times contracts and multiplier; what is the underlying itself has delta alone. */
function GreekCell({ position, greek }: { position: LivePosition; greek: Greek }) {
  const instrument = instrumentOf(position.instrument);
  const isOption = instrument?.kind === 'option' && instrument.underlying !== null;
  const { data: chain } = useAsked(
    'GET /api/options/{underlying}',
    { path: { underlying: instrument?.underlying ?? '' }, query: { expiry: instrument?.expiry ?? undefined } },
    { when: isOption && position.quantity !== '0', everyMs: AGAIN_MS },
  );
  if (!instrument || position.quantity === '0') return '';
  const said = (value: number): string => greekText(greek, value);
  if (!isOption) return greek === 'delta' && (instrument.kind === 'share' || instrument.kind === 'fund') ? said(Number(position.quantity)) : '';
  const cell = chain?.rows.flatMap(({ call, put }) => [call, put]).find((one) => one?.instrument === position.instrument);
  const of = cell?.[greek];
  return of == null ? '–' : said(Number(of) * Number(position.quantity) * instrument.multiplier);
}

export const GREEK_COLUMNS: readonly GridColumn<LivePosition>[] = GREEKS.map((greek) => ({
  id: greek,
  head: greek,
  figure: true,
  cell: (position) => <GreekCell position={position} greek={greek} />,
  cellProps: () => ({ title: GREEK_WORDS[greek] }),
}));

/** What a position is of: an option's underlying, else itself. */
export const underlyingOf = ({ instrument }: LivePosition): string => instrumentOf(instrument)?.underlying ?? instrument;

/** Beside the name of a group of one underlying: the greeks of all that is held of it. */
export function GroupGreeks({ underlying }: { underlying: string }) {
  const hasOptions = Object.values(useStore($positions)).some(({ instrument, quantity }) => {
    const option = instrumentOf(instrument);
    return option?.kind === 'option' && option.underlying === underlying && quantity !== '0';
  });
  const { data: held } = useAsked('GET /api/options/{underlying}/held', { path: { underlying } }, { everyMs: AGAIN_MS, when: hasOptions });
  return hasOptions && held ? <span className="ml-3 font-normal text-quiet">{greeksWords(held)}</span> : null;
}
