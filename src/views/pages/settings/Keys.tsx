import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useState } from 'react';
import { $bindings, saveBindings, type BoundKey } from '../../../client/bindings.ts';
import { bindingProblem, freeKey, keyName } from '../../../core/language/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { saveFile } from '../../../kit/save-file.ts';
import { problemWords } from '../../../live/index.ts';
import { readOrder } from '../../act/phrase-order.ts';
import { $target } from '../../workspace/panes.ts';
import { Section } from './Section.tsx';

const READ_EVERY_MS = 1000;

/** A key as it is pressed, in the words of a binding; `Space` held makes it one of the order layer's. */
function pressed(event: React.KeyboardEvent, space: boolean): string | null {
  const held = [event.ctrlKey ? 'Ctrl' : '', event.altKey ? 'Alt' : '', event.shiftKey ? 'Shift' : ''].filter(Boolean);
  const base = event.code.startsWith('Numpad') ? `Numpad ${event.key}` : event.key;
  if (['Control', 'Alt', 'Shift', 'Meta', ' ', 'Tab'].includes(event.key)) return null;
  return keyName([...(space ? ['Space'] : []), ...held, base].join(' '));
}

/** Keys that the trader binds to order phrases: each read against the live market while it is typed; nothing is sent. */
export function Keys() {
  const saved = useStore($bindings);
  const [rows, setRows] = useState<readonly BoundKey[]>(saved.items);
  const [refused, setRefused] = useState<string | null>(null);
  useEffect(() => setRows(saved.items), [saved]);
  const change = (i: number, to: Partial<BoundKey>): void => setRows(rows.map((row, k) => (k === i ? { ...row, ...to } : row)));
  const taken = useMemo(() => new Set(rows.map(({ key }) => keyName(key) ?? key)), [rows]);
  const wrong = rows.map((row, i) => problemOf(row, i, rows));
  const changed = JSON.stringify(rows) !== JSON.stringify(saved.items);
  const save = async (): Promise<void> => {
    const done = await saveBindings(rows);
    setRefused(done.ok ? null : problemWords(done.problem));
  };
  const paste = async (): Promise<void> => {
    try {
      const given = JSON.parse(await navigator.clipboard.readText()) as { items?: BoundKey[] };
      if (!Array.isArray(given.items)) throw new Error('no items');
      // Shown whole with what changes before it counts: nothing is saved yet.
      setRows(given.items.map(({ key, phrase }) => ({ key: String(key), phrase: phrase ?? null, command: null, sets: [] })));
    } catch {
      setRefused('What is on the clipboard is no set of keys: JSON with items was expected.');
    }
  };
  return (
    <Section title="Keys" about="What a key says is an order phrase, read when it is pressed. It counts in every window the moment it is saved.">
      <ul className="flex flex-col gap-2" aria-label="Bound keys">
        {rows.map((row, i) => (
          <li key={i}>
            <span className="flex items-center gap-1">
              <KeyField value={row.key} number={i + 1} onChange={(key) => change(i, { key })} />
              <input
                className="field min-w-0 flex-1"
                aria-label={`Phrase of key ${i + 1}`}
                spellCheck={false}
                value={row.phrase ?? ''}
                placeholder="such as: buy 500 at bid"
                onChange={(event) => change(i, { phrase: event.target.value })}
              />
              <Button size="small" aria-label={`drop key ${i + 1}`} onClick={() => setRows(rows.filter((_, k) => k !== i))}>
                drop
              </Button>
            </span>
            {wrong[i] ? (
              <p className="plate heather mt-1 whitespace-normal">
                {wrong[i]}
                {/bound already|kept|can send|own use/.test(wrong[i]) && freeKey(taken) !== null && (
                  <button type="button" className="ml-2 underline" onClick={() => change(i, { key: freeKey(taken) ?? row.key })}>
                    {freeKey(taken)} is free
                  </button>
                )}
              </p>
            ) : (
              <Reading phrase={row.phrase ?? ''} />
            )}
          </li>
        ))}
      </ul>
      {rows.length === 0 && <p className="text-quiet">No key is bound; the order layer has its own.</p>}
      <div className="mt-2 flex flex-wrap gap-1">
        <Button onClick={() => setRows([...rows, { key: freeKey(taken) ?? 'F13', phrase: 'buy 100 at bid', command: null, sets: [] }])}>bind a key</Button>
        <Button onClick={() => void save()} disabled={!changed || wrong.some((one) => one !== null)}>
          {changed ? 'save the keys' : 'saved'}
        </Button>
        <Button onClick={() => saveFile('kavix-keys.json', 'application/json', JSON.stringify({ items: rows }, null, 2))} disabled={rows.length === 0}>
          export
        </Button>
        <Button onClick={() => void paste()}>paste JSON</Button>
      </div>
      {refused !== null && <p className="plate heather mt-1 whitespace-normal">{refused}</p>}
    </Section>
  );
}

function problemOf(row: BoundKey, i: number, rows: readonly BoundKey[]): string | null {
  const wrong = bindingProblem(row);
  if (wrong) return wrong.message;
  const name = keyName(row.key);
  const other = rows.findIndex((one, k) => k < i && keyName(one.key) === name);
  return other < 0 ? null : `${name ?? row.key} is bound already, to “${rows[other]?.phrase ?? ''}”`;
}

/** Press a key to bind it; with `Space` held, in the order layer. */
function KeyField({ value, number, onChange }: { value: string; number: number; onChange: (key: string) => void }) {
  const [space, setSpace] = useState(false);
  return (
    <input
      className="field w-[110px]"
      aria-label={`Key ${number}: press it`}
      title="Press the key; hold Space with it for the order layer"
      value={value}
      readOnly
      onKeyDown={(event) => {
        if (event.key === 'Tab') return;
        event.preventDefault();
        event.stopPropagation();
        if (event.key === ' ') setSpace(true);
        const key = pressed(event, space);
        if (key !== null) onChange(key);
      }}
      onKeyUp={(event) => event.key === ' ' && setSpace(false)}
      onBlur={() => setSpace(false)}
    />
  );
}

/** What the phrase would do now at the key target, again and again as the market moves. It sends nothing. */
function Reading({ phrase }: { phrase: string }) {
  const target = useStore($target);
  const [words, setWords] = useState('');
  useEffect(() => {
    let gone = false;
    const look = async (): Promise<void> => {
      const read = await readOrder(phrase, target);
      if (!gone && read) setWords(read.ok ? (read.reading ?? '') : (read.error?.message ?? ''));
    };
    void look();
    const timer = setInterval(() => void look(), READ_EVERY_MS);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  }, [phrase, target]);
  return (
    <p className="truncate text-quiet" title={words}>
      {words}
    </p>
  );
}
