import { useState } from 'react';
import type { BoundKey } from '../../../client/bindings.ts';
import { KEY_ROWS, gridOf, type KeyRow } from '../../../client/key-grid.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Field } from '../../../kit/Field.tsx';
import { Reading, usePressed } from './key-press.tsx';

const ROWS = Object.keys(KEY_ROWS) as KeyRow[];
const listed = (text: string): string[] => text.split(/\s*[,;]\s*/).map((one) => one.trim()).filter(Boolean); // prettier-ignore
const SIDES = [
  { value: 'both', words: 'buy and sell' },
  { value: 'buy', words: 'buy' },
  { value: 'sell', words: 'sell' },
] as const;

/** Many keys at once: every side with every size at every price, shown whole before any of it is written. */
export function GridBuilder({ onWrite }: { onWrite: (keys: readonly BoundKey[]) => void }) {
  const [sides, setSides] = useState<(typeof SIDES)[number]['value']>('both');
  const [sizes, setSizes] = useState('100, 300, 500');
  const [prices, setPrices] = useState('at bid, at ask, at bid - 1 tick, at ask + 1 tick');
  const [rows, setRows] = useState<readonly (KeyRow | '')[]>(['top row', 'home row', 'bottom row']);
  /** The number pad and the keys of no keyboard send by themselves; all others in the order layer. */
  const chordOf = (row: KeyRow, key: string): string => (row === 'number pad' || row === 'F13 to F24' ? key : `Space ${key}`);
  const keys = rows.flatMap((row) => (row === '' ? [] : KEY_ROWS[row].map((key) => chordOf(row, key))));
  const wish = { sides: sides === 'both' ? (['buy', 'sell'] as const) : [sides], sizes: listed(sizes), prices: listed(prices) };
  const { keys: written, without } = gridOf({ ...wish, keys, held: [] });
  return (
    <div className="flex flex-col gap-1" role="group" aria-label="Grid of keys">
      <Field label="Sides">
        <Choice label="Sides" value={sides} options={SIDES} onPick={setSides} />
      </Field>
      <Field label="Sizes">
        <input className="field w-[230px]" aria-label="Sizes of the grid" value={sizes} onChange={(event) => setSizes(event.target.value)} />
      </Field>
      <Field label="Prices">
        <input
          className="field w-[230px]"
          aria-label="Prices of the grid"
          value={prices}
          spellCheck={false}
          onChange={(event) => setPrices(event.target.value)}
        />
      </Field>
      <Field label="Keys">
        <span className="flex gap-1">
          {rows.map((row, i) => (
            <Choice
              key={i}
              label={`Keys ${i + 1}`}
              value={row}
              options={[
                { value: '' as const, words: 'none' },
                ...ROWS.filter((one) => one === row || !rows.includes(one)).map((value) => ({ value, words: value })),
              ]}
              onPick={(picked) => setRows(rows.map((one, k) => (k === i ? picked : one)))}
            />
          ))}
        </span>
      </Field>
      <ul className="flex max-h-[150px] flex-col scroll" tabIndex={0} aria-label="What the grid would write">
        {written.map(({ key, phrase }) => (
          <li key={key} className="truncate" title={phrase}>
            <b className="inline-block min-w-[64px]">{key}</b> {phrase}
          </li>
        ))}
      </ul>
      {without > 0 && (
        <p className="plate heather">
          {without} {without === 1 ? 'phrase has' : 'phrases have'} no key: add another row or fewer sizes
        </p>
      )}
      <Button className="self-start" disabled={written.length === 0} onClick={() => onWrite(written.map((one) => ({ ...one, command: null, sets: [] })))}>
        write {written.length} keys
      </Button>
    </div>
  );
}

/** The real key, pressed: what it would send now. It sends nothing. */
export function TryIt({ rows }: { rows: readonly BoundKey[] }) {
  const [key, setKey] = useState<string | null>(null);
  const pressed = usePressed(setKey);
  const bound = rows.find((row) => row.key === key);
  return (
    <div>
      <input
        className="field w-full"
        aria-label="Try a key: press it here"
        placeholder="press a key here, with Space held for the layer"
        readOnly
        value={key ?? ''}
        {...pressed}
      />
      {key !== null &&
        (bound?.phrase ? <Reading phrase={bound.phrase} /> : <p className="text-quiet">{bound?.command ? `does: ${bound.command}` : `${key} does nothing`}</p>)}
    </div>
  );
}
