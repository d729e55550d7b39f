import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { grouped } from '../../../kit/Figure.tsx';
import { followQuote, instruments, quoteOf, type ApiQuote } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { $letters, $panes, setInstrument, targetOf } from '../../workspace/panes.ts';

/** What an instrument is: its specification, limits, hours, other listings, and what its issuer earns. */
export default function CardPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const target = targetOf(id);
  const instrument = target?.instrument;
  const card = useAsked('GET /api/instruments/{id}', { path: { id: instrument ?? '' } }, { freshMs: Infinity, when: instrument !== undefined }).data;
  const [quote, setQuote] = useState<ApiQuote | null>(null);
  useEffect(() => {
    if (!instrument) return undefined;
    return followQuote(instrument, ({ text }) => setQuote((before) => (before?.instrument === text.instrument && before.last === text.last ? before : text)));
  }, [instrument]);
  if (!instrument) return <p className="p-2 text-quiet">No instrument. Type its letters, or pick one in the command bar.</p>;
  if (card?.id !== instrument) return <div className="skeleton h-full" role="status" aria-label="Loading the card" />;
  const others = [...instruments.values()].filter((one) => one.ticker === card.ticker && one.id !== card.id);
  const limits = (quoteOf(card.id)?.text ?? quote)?.priceLimits;
  const rows: [string, string | null][] = [
    ['kind', card.kind],
    ['sector', card.sector],
    ['currency', card.currency],
    ['tick', card.tickBands.map(({ from, tick }, i) => (i === 0 ? tick : `${tick} from ${from}`)).join(', ')],
    ['quantity step', card.quantityStep],
    ['smallest quantity', card.minimumQuantity],
    ['multiplier', card.inverse ? 'inverse: one contract is one unit of the currency' : card.multiplier],
    ['underlying', card.underlying],
    ['strike', card.strike === null ? null : `${card.strike} ${card.right}`],
    ['last day', card.expiry],
    [
      'hours',
      card.session
        ? `${card.session.open}–${card.session.close}, pre-open ${card.session.preOpen ?? '–'}, ${card.zone}`
        : 'round the clock, day turns at 00:00 UTC',
    ],
    ['order types', card.venueOrderTypes.join(', ')],
    ['price limits today', limits?.lower || limits?.upper ? `${limits.lower ?? '–'} to ${limits.upper ?? '–'}` : 'none'],
    ['margin', `overnight ${card.margin.overnight}, intraday ${card.margin.intraday}, maintenance ${card.margin.maintenance}`],
  ];
  const own = card.fundamentals;
  const figures: [string, string | null][] = own
    ? [
        ['shares outstanding', grouped(own.sharesOutstanding)],
        ['market value', marketValue(own.sharesOutstanding, quote?.last ?? quote?.previousSettlement ?? null, card.currency)],
        ['earnings per share', own.earningsPerShare],
        ['price to earnings', ratio(quote?.last ?? quote?.previousSettlement ?? null, own.earningsPerShare)],
        ['dividend per share', own.dividendPerShare],
        ['dividend yield', yieldOf(own.dividendPerShare, quote?.last ?? quote?.previousSettlement ?? null)],
      ]
    : [];
  return (
    <div className="scroll h-full px-2 py-1" tabIndex={0} role="group" aria-label={`Card of ${card.id}`}>
      <h2 className="text-[15px] font-semibold">{card.name}</h2>
      <dl className="grid grid-cols-[132px_1fr] gap-x-3">
        {[...rows, ...figures]
          .filter(([, value]) => value !== null)
          .map(([name, value]) => (
            <div key={name} className="contents">
              <dt className="text-quiet">{name}</dt>
              <dd className={/^[\d−-][^ ]*$/.test(value ?? '') ? 'figure text-left leading-[18px]' : ''}>{value}</dd>
            </div>
          ))}
      </dl>
      {others.length > 0 && (
        <p className="mt-1 flex gap-2">
          <span className="text-quiet">also listed</span>
          {others.map((one) => (
            <button key={one.id} type="button" className="underline underline-offset-2" onClick={() => setInstrument(id, one.id)}>
              <InstrumentName id={one.id} />
            </button>
          ))}
        </p>
      )}
    </div>
  );
}

const marketValue = (shares: string, price: string | null, currency: string): string | null =>
  price === null ? null : `${currency} ${grouped(Math.round((Number(shares) * Number(price)) / 1e6).toString())} million`;
const ratio = (price: string | null, earnings: string): string | null =>
  price === null ? null : Number(earnings) <= 0 ? '– (a loss)' : (Number(price) / Number(earnings)).toFixed(1);
const yieldOf = (dividend: string, price: string | null): string | null =>
  price === null ? null : `${((Number(dividend) / Number(price)) * 100).toFixed(2)} %`;
