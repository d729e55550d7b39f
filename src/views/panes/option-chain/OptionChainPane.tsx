import { useStore } from '@nanostores/react';
import { useCallback, useState } from 'react';
import { submit } from '../../../client/gestures/index.ts';
import { accountFor, sizeOf } from '../../../client/session.ts';
import { gathered, type SpreadLeg } from '../../../client/spread.ts';
import { rowsIn } from '../../../client/chain.ts';
import { optionsOf } from '../../../client/live-chain.ts';
import { parseDay, tradingDay } from '../../../core/market/index.ts';
import { Filters } from '../../../kit/Filters.tsx';
import { lengthened } from '../../../kit/Figure.tsx';
import { $clock, instrumentOf, problemWords } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { walkCommands } from '../../act/table.ts';
import { $letters, $panes, setInstrument, targetOf } from '../../workspace/panes.ts';
import { useSettings } from '../../workspace/settings.ts';
import { ChainTable, percent, type Press } from './ChainTable.tsx';
import { Held } from './Held.tsx';
import { CHAIN } from './settings.ts';
import { Smile } from './Smile.tsx';
import { Spread } from './Spread.tsx';
import { useChain } from './use-chain.ts';

/** The options of what the pane's letter shows, or of what the option it shows is of. */
export default function OptionChainPane({ id }: { id: string }) {
  useStore($panes);
  useStore($letters);
  const shown = targetOf(id)?.instrument ?? null;
  const underlying = shown === null ? null : (instrumentOf(shown)?.underlying ?? shown);
  if (underlying === null) return <p className="p-2 text-quiet">Choose an instrument: its options are shown here.</p>;
  return <ChainOf key={underlying} id={id} underlying={underlying} shown={shown} />;
}

function ChainOf({ id, underlying, shown }: { id: string; underlying: string; shown: string | null }) {
  const [expiry, setExpiry] = useState<string | null>(null);
  const [legs, setLegs] = useState<readonly SpreadLeg[]>([]);
  const { columns, range } = useSettings(useStore($panes)[id], CHAIN);
  const { chain, error } = useChain(underlying, expiry);
  const options = chain ? optionsOf(chain) : [];
  const press = useCallback<Press>(
    (option, side, price, gathers) => {
      if (gathers) return setLegs((before) => gathered(before, option, side === 'bid' ? 'sell' : 'buy', price));
      const account = accountFor(option, targetOf(id)?.account);
      setInstrument(id, option, account);
      const wish = {
        account,
        instrument: option,
        side: side === 'bid' ? 'buy' : 'sell',
        type: 'limit',
        quantity: sizeOf(account, option),
        limitPrice: price,
      } as const;
      submit({ pane: id, from: 'tables', intent: { kind: 'place', wish }, evidence: null, always: 'slip' });
    },
    [id],
  );
  const calls = (chain?.rows ?? []).flatMap(({ call }) => (call ? [call.instrument] : []));
  const puts = (chain?.rows ?? []).flatMap(({ put }) => (put ? [put.instrument] : []));
  const side = shown !== null && puts.includes(shown) ? puts : calls;
  usePaneCommands(id, [
    ...walkCommands('strike', side, shown, (option) => setInstrument(id, option)),
    {
      keys: ['ArrowLeft', 'ArrowRight'],
      words: 'the other side of the strike',
      cannot: () => (shown !== null && options.includes(shown) ? null : 'no option is chosen: press one first'),
      run: () => {
        const row = chain?.rows.find(({ call, put }) => call?.instrument === shown || put?.instrument === shown);
        const other = row?.call?.instrument === shown ? row?.put : row?.call;
        if (other) setInstrument(id, other.instrument);
      },
    },
  ]);
  if (error) return <p className="plate heather m-2 whitespace-normal">{problemWords(error.problem)}</p>;
  if (!chain) return <div className="skeleton h-full" role="status" aria-label="Loading the options" />;
  if (chain.rows.length === 0) return <p className="p-2 text-quiet">{underlying} has no options.</p>;
  const spot = chain.spot === null ? null : Number(chain.spot);
  const rows = rowsIn(chain.rows, range, spot);
  const venue = instrumentOf(underlying)?.venue ?? 'HALM';
  const now = $clock.get()?.time;
  const today = now === undefined ? null : tradingDay(venue, Date.parse(now));
  const left = (value: string): number => (today === null ? 0 : Math.max(0, parseDay(value) - today));
  const shownExpiry = chain.expiry ?? '';
  const days = left(shownExpiry);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[46px] shrink-0 items-center justify-between gap-2">
        <div className="min-w-0">
          <Filters
            label="Expiry"
            options={chain.expiries.map((value) => ({ value, words: `${value}, ${left(value)} ${left(value) === 1 ? 'day' : 'days'}` }))}
            chosen={shownExpiry}
            onChoose={setExpiry}
          />
          <p className="truncate px-2">
            {underlying} at <b className="figure">{chain.spot === null ? '–' : lengthened(chain.spot, instrumentOf(underlying ?? '')?.priceDecimals ?? 0)}</b>
            <span className="text-quiet">, rate {percent(chain.rate)}</span>
          </p>
        </div>
        <Smile chain={chain} />
      </div>
      <ChainTable chain={chain} rows={rows} spot={spot} columns={columns} shown={shown} press={press} />
      {legs.length > 0 ? <Spread pane={id} legs={legs} days={days} onClear={() => setLegs([])} /> : <Held underlying={underlying} days={days} />}
    </div>
  );
}
