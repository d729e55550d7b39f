import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { submit } from '../../../client/gestures/index.ts';
import { accountFor, sizeOf } from '../../../client/session.ts';
import { gathered, type SpreadLeg } from '../../../client/spread.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { instrumentOf, problemWords, type AnswerOf } from '../../../live/index.ts';
import { usePaneCommands } from '../../act/keys.ts';
import { useAsked } from '../../act/queries.tsx';
import { walkCommands } from '../../act/table.ts';
import { dragsInstrument } from '../../workspace/drag.ts';
import { $letters, $panes, setInstrument, targetOf } from '../../workspace/panes.ts';
import { Smile } from './Smile.tsx';
import { Spread } from './Spread.tsx';

type Chain = AnswerOf<'GET /api/options/{underlying}'>;
type Cell = NonNullable<Chain['rows'][number]['call']>;
type Side = 'call' | 'put';

const AGAIN_MS = 1000;
const PERCENT = 100;
const percent = (text: string | null): string => (text === null ? '–' : `${(Number(text) * PERCENT).toFixed(1)} %`);
const delta = (text: string | null): string => (text === null ? '–' : Number(text).toFixed(2).replace('-', '−'));

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
  const { data: chain, error } = useAsked(
    'GET /api/options/{underlying}',
    { path: { underlying }, query: { expiry: expiry ?? undefined } },
    { everyMs: AGAIN_MS },
  );
  const options = (chain?.rows ?? []).flatMap(({ call, put }) => [call, put].flatMap((cell) => (cell ? [cell.instrument] : [])));
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
  const nearest =
    spot === null ? null : chain.rows.reduce((best, row) => (Math.abs(Number(row.strike) - spot) < Math.abs(Number(best.strike) - spot) ? row : best)).strike;
  const press: Press = (option, side, price, gathers) => {
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
  };
  const days = chain.years === null ? 0 : Math.round(Number(chain.years) * 365);
  return (
    <div className="flex h-full flex-col">
      <div className="flex h-[46px] shrink-0 items-center gap-3 px-2">
        <Choice
          label="Expiry"
          className="shrink-0"
          value={chain.expiry}
          options={chain.expiries.map((value) => ({ value, words: value }))}
          onPick={setExpiry}
        />
        <span className="whitespace-nowrap">
          {underlying} at <b className="figure">{chain.spot ?? '–'}</b>
        </span>
        <span className="truncate text-quiet">
          {chain.years === null ? '' : `${days} days, `}rate {percent(chain.rate)}
        </span>
        <span className="ml-auto" />
        <Smile chain={chain} />
      </div>
      <div className="min-h-0 flex-1 scroll" tabIndex={0} role="region" aria-label={`Options of ${underlying}`}>
        <table className="list w-full">
          <thead>
            <tr>
              <th scope="colgroup" colSpan={4}>
                calls
              </th>
              <th scope="col" rowSpan={2} className="text-center align-bottom">
                strike
              </th>
              <th scope="colgroup" colSpan={4}>
                puts
              </th>
            </tr>
            <tr>
              {['delta', 'volatility', 'position', 'bid / ask'].map((head) => (
                <th key={head} scope="col" className="text-right">
                  {head}
                </th>
              ))}
              {['bid / ask', 'position', 'volatility', 'delta'].map((head) => (
                <th key={head} scope="col" className="text-right">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {chain.rows.map(({ strike, call, put }) => (
              <tr key={strike} className={strike === nearest ? 'bg-well' : ''}>
                <Figures cell={call} side="call" />
                <Quote cell={call} shown={shown} press={press} />
                <td className="figure text-center font-semibold">{strike}</td>
                <Quote cell={put} shown={shown} press={press} />
                <Figures cell={put} side="put" />
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {legs.length > 0 && <Spread pane={id} legs={legs} days={days} onClear={() => setLegs([])} />}
    </div>
  );
}

/** Delta, volatility and position: the other way round on the right of the strikes. */
function Figures({ cell, side }: { cell: Cell | null; side: Side }) {
  const position = cell === null || Number(cell.position) === 0 ? '' : cell.position;
  const texts = [delta(cell?.delta ?? null), percent(cell?.impliedVolatility ?? null), position];
  return (
    <>
      {(side === 'call' ? texts : [...texts].reverse()).map((text, i) => (
        <td key={i} className="figure">
          {cell === null ? '' : text}
        </td>
      ))}
    </>
  );
}

type Press = (option: string, side: 'bid' | 'ask', price: string, gathers: boolean) => void;

/**
 * What an option is bid and asked: a press on the bid rests a buy there and on the ask a sell, in the slip; with Shift
 * it gathers a leg, which is bought at the ask and sold at the bid.
 */
function Quote({ cell, shown, press }: { cell: Cell | null; shown: string | null; press: Press }) {
  if (cell === null) return <td />;
  const side = (name: 'bid' | 'ask') => {
    const price = cell[name];
    if (price === null) return <span className="text-quiet">–</span>;
    return (
      <button
        type="button"
        className="figure min-h-[22px] px-1"
        aria-label={`${cell.instrument} ${name} ${price}`}
        title={`${name === 'bid' ? 'buy' : 'sell'} limit at ${price}; with Shift a leg that ${name === 'bid' ? 'sells' : 'buys'} at it`}
        onClick={(event) => press(cell.instrument, name, price, event.shiftKey)}
      >
        {price}
      </button>
    );
  };
  return (
    <td className={`figure whitespace-nowrap ${cell.instrument === shown ? 'font-bold underline' : ''}`} {...dragsInstrument(cell.instrument)}>
      {side('bid')} / {side('ask')}
    </td>
  );
}
