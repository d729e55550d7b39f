import { useMemo, useState } from 'react';
import { readSheet, type DraftRow } from '../../../client/baskets.ts';
import { Button } from '../../../kit/Button.tsx';
import { Dialog } from '../../../kit/Dialog.tsx';
import { InstrumentName, Pennant } from '../../../kit/Instrument.tsx';
import { findInstruments, instrumentOf } from '../../../live/index.ts';

/** An instrument by its id, else by its ticker: the first listing that is found has it. */
function known(name: string): string | null {
  const id = name.trim().toUpperCase();
  if (instrumentOf(id)) return id;
  return findInstruments(name).find(({ instrument }) => instrument.ticker === id)?.instrument.id ?? null;
}

const count = (rows: number): string => (rows === 1 ? '1 row is' : `${rows} rows are`);

/** Rows from a spreadsheet or a file: what each column became, what is wrong where, and the rows that are right. */
export function PasteDialog({ account, onTake, onClose }: { account: string; onTake: (rows: readonly DraftRow[]) => void; onClose: () => void }) {
  const [text, setText] = useState('');
  const sheet = useMemo(() => (text.trim() === '' ? null : readSheet(text, account, known)), [text, account]);
  return (
    <Dialog title="Rows from a sheet" onClose={onClose} className="w-[720px]">
      <p className="text-quiet">Paste rows here, or take a CSV file. Columns: instrument, side, quantity, type, price, stop, until, account, plan, setup.</p>
      <textarea
        className="field mt-1 h-[110px] w-full font-[family-name:var(--font-figure)]"
        aria-label="Rows"
        spellCheck={false}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <label className="my-1 block">
        <span className="text-quiet">or a file </span>
        <input type="file" accept=".csv,text/csv,text/plain" onChange={(event) => void event.target.files?.[0]?.text().then(setText)} />
      </label>
      {sheet && (
        <>
          <p>
            Columns: {sheet.columns.map((field, i) => `${i + 1} ${field ?? 'left out'}`).join(' · ')}. {count(sheet.rows.length)} right
            {sheet.problems.length > 0 ? `, ${count(sheet.problems.length)} not:` : '.'}
          </p>
          {sheet.problems.length > 0 && (
            <ul aria-label="What is wrong">
              {sheet.problems.map(({ line, column, message }) => (
                <li key={`${line} ${column}`}>
                  <span className="plate heather">
                    line {line}, column {column}
                  </span>{' '}
                  {message}
                </li>
              ))}
            </ul>
          )}
          <ul className="my-1 max-h-[160px] scroll" tabIndex={0} aria-label="Rows that are right">
            {sheet.rows.map((row) => (
              <li key={row.id} className="flex items-center gap-2">
                <Pennant side={row.side} /> <span className="figure">{row.quantity}</span> <InstrumentName id={row.instrument} /> {row.type} {row.price}
                <span className="text-quiet">{row.account}</span>
              </li>
            ))}
          </ul>
          <div className="flex gap-2">
            <Button
              disabled={sheet.rows.length === 0}
              onClick={() => {
                onTake(sheet.rows);
                onClose();
              }}
            >
              take {sheet.rows.length} {sheet.rows.length === 1 ? 'row' : 'rows'}
            </Button>
            <Button onClick={onClose}>leave it</Button>
          </div>
        </>
      )}
    </Dialog>
  );
}
