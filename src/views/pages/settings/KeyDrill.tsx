import { useEffect, useMemo, useState, type KeyboardEvent } from 'react';
import type { BoundKey } from '../../../client/bindings.ts';
import { bookAt, marketOf, readDrillTape, type DrillSide } from '../../../client/drill-book.ts';
import { averageSeconds, beginDrill, pressInDrill, type Drill } from '../../../client/drill.ts';
import { readHere } from '../../../client/order-reading.ts';
import TAPE from '../../../client/drill-tape.csv?raw';
import { formatPrice, formatQuantity, type Instrument } from '../../../core/instrument/index.ts';
import { Facts } from '../../../kit/Facts.tsx';
import { Button } from '../../../kit/Button.tsx';
import { instrumentOf } from '../../../live/index.ts';
import { readingWords } from '../../act/phrase-order.ts';
import { usePressed } from './key-press.tsx';

const pick = (count: number): number => Math.floor(Math.random() * count);
/** The instrument of the tape, and an account that has nothing. */
const TARGET = { account: 'PRACTICE', instrument: 'GANET.HALM' };
const LEVELS = 5;
const LOOK_MS = 300;

/** Practice: an order is named, its key is to be pressed, on a book that a tape moves. It counts, and sends nothing. */
export function KeyDrill({ rows }: { rows: readonly BoundKey[] }) {
  const [drill, setDrill] = useState<Drill | null>(null);
  const instrument = instrumentOf(TARGET.instrument);
  const canBegin = instrument !== undefined && rows.some(({ phrase }) => phrase);
  if (!drill || !instrument)
    return (
      <Button className="self-start" disabled={!canBegin} onClick={() => setDrill(beginDrill(rows, performance.now(), pick))}>
        practise the keys
      </Button>
    );
  return <Practice rows={rows} instrument={instrument} drill={drill} onDrill={setDrill} />;
}

function Practice({
  rows,
  instrument,
  drill,
  onDrill,
}: {
  rows: readonly BoundKey[];
  instrument: Instrument;
  drill: Drill;
  onDrill: (next: Drill | null) => void;
}) {
  const tape = useMemo(() => readDrillTape(TAPE, instrument), [instrument]);
  const [began] = useState(() => performance.now());
  const [now, setNow] = useState(began);
  useEffect(() => {
    const timer = setInterval(() => setNow(performance.now()), LOOK_MS);
    return () => clearInterval(timer);
  }, []);
  const book = useMemo(() => bookAt(tape, now - began), [tape, now, began]);
  const read = (phrase: string) => readHere(phrase, TARGET, marketOf(instrument, TARGET.account, book));
  const wouldAsk = (phrase: string): string | null => {
    const reading = read(phrase);
    return reading?.ok ? JSON.stringify([reading.requests, reading.act]) : null;
  };
  const press = usePressed((key) => onDrill(pressInDrill(drill, key, rows, performance.now(), pick, wouldAsk)));
  const asked = read(drill.asked.phrase ?? '');
  const average = averageSeconds(drill);
  return (
    <div className="flex flex-col gap-1" role="group" aria-label="Practice">
      <p className="text-[16px]">
        <b>{drill.asked.phrase}</b>
      </p>
      <p className="min-h-[18px] text-quiet">{asked ? readingWords(asked) : 'it depends on more than this book'}</p>
      <div className="flex gap-4" role="img" aria-label={`The book of ${instrument.id}, from a tape`}>
        <Side words="bid" of={book.bids} instrument={instrument} />
        <Side words="ask" of={book.asks} instrument={instrument} />
        <p className="text-quiet">
          {instrument.id}, from a tape
          {book.last === null ? '' : `, last ${formatPrice(instrument, book.last)}`}
        </p>
      </div>
      <input
        autoFocus
        className="field w-full"
        aria-label="Press the key of this order"
        readOnly
        value={drill.said ?? 'press its key'}
        {...press}
        onKeyDown={(event: KeyboardEvent<HTMLInputElement>) => (event.key === 'Escape' ? onDrill(null) : press.onKeyDown(event))}
      />
      <p role="status">
        {drill.right} right, {drill.wrong} wrong{average === null ? '' : `, ${average.toFixed(1)} s on average`}
      </p>
      <Button className="self-start" size="small" onClick={() => onDrill(null)}>
        end the practice
      </Button>
    </div>
  );
}

function Side({ words, of, instrument }: { words: string; of: DrillSide; instrument: Instrument }) {
  return (
    <div className="figure">
      <h4 className={`text-left ${words === 'bid' ? 'up' : 'down'}`}>{words}</h4>
      <Facts lines={of.slice(0, LEVELS).map(({ price, quantity }) => [formatPrice(instrument, price), formatQuantity(instrument, quantity)])} />
    </div>
  );
}
