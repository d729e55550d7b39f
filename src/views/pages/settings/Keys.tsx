import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useState } from 'react';
import { $bindings, saveBindings, type BoundKey } from '../../../client/bindings.ts';
import { keyChanges, keySetOf, readKeySet } from '../../../client/key-sets.ts';
import { bindingProblem, freeKey, keyName } from '../../../core/language/index.ts';
import { commandIds } from '../../../client/keys.ts';
import { Button } from '../../../kit/Button.tsx';
import { problemWords } from '../../../live/index.ts';
import { Choice } from '../../../kit/Choice.tsx';
import { JsonFile } from '../../act/JsonFile.tsx';
import { useAsked } from '../../act/queries.tsx';
import { KeyDrawing } from './KeyDrawing.tsx';
import { KeyDrill } from './KeyDrill.tsx';
import { GridBuilder, TryIt } from './KeyTools.tsx';
import { Reading, usePressed } from './key-press.tsx';
import { Section } from './Section.tsx';

/** Keys that the trader binds to order phrases: each read against the live market while it is typed; nothing is sent. */
export function Keys() {
  const saved = useStore($bindings);
  const [rows, setRows] = useState<readonly BoundKey[]>(saved.items);
  const [refused, setRefused] = useState<string | null>(null);
  const workspaces = (useAsked('GET /api/workspaces', {}, { freshMs: 5000 }).data?.items ?? []).map(({ name }) => name);
  const [taking, setTaken] = useState<string | null>(null);
  useEffect(() => {
    setRows(saved.items);
    setTaken(null);
  }, [saved]);
  const change = (i: number, to: Partial<BoundKey>): void => setRows(rows.map((row, k) => (k === i ? { ...row, ...to } : row)));
  const taken = useMemo(() => new Set(rows.map(({ key }) => keyName(key) ?? key)), [rows]);
  const wrong = rows.map((row, i) => problemOf(row, i, rows));
  const changed = JSON.stringify(rows) !== JSON.stringify(saved.items);
  const save = async (): Promise<void> => {
    const done = await saveBindings(rows);
    setRefused(done.ok ? null : problemWords(done.problem));
  };
  /** Shows a set whole, with what it changes: nothing is saved yet. */
  const take = (text: string): void => {
    const found = readKeySet(text);
    setRefused(found.ok ? null : found.refusal);
    setTaken(found.ok ? keyChanges(saved.items, found.value) : null);
    if (found.ok) setRows(found.value);
  };
  const paste = (): Promise<void> =>
    navigator.clipboard.readText().then(take, () => setRefused('The clipboard can’t be read: allow it in the browser, or open a file.'));
  return (
    <Section title="Keys" about="What a key says is an order phrase, read when it is pressed. It counts in every window the moment it is saved.">
      <div className="grid grid-cols-[minmax(0,1fr)_340px] gap-4">
        <div className="flex min-w-0 flex-col gap-2">
          <ul className="grid grid-cols-2 gap-x-4 gap-y-2" aria-label="Bound keys">
            {rows.map((row, i) => (
              <li key={i}>
                <span className="flex items-center gap-1">
                  <KeyField value={row.key} number={i + 1} onChange={(key) => change(i, { key })} />
                  {row.command === null ? (
                    <input
                      className="field min-w-0 flex-1"
                      aria-label={`Phrase of key ${i + 1}`}
                      spellCheck={false}
                      value={row.phrase ?? ''}
                      placeholder="such as: buy 500 at bid"
                      onChange={(event) => change(i, { phrase: event.target.value })}
                    />
                  ) : (
                    <Choice
                      label={`Command of key ${i + 1}`}
                      className="min-w-0 flex-1"
                      value={row.command}
                      options={[...new Set([row.command, ...commandIds()])].map((value) => ({ value, words: value.replaceAll('-', ' ') }))}
                      onPick={(command) => change(i, { command })}
                    />
                  )}
                  <Choice
                    label={`In which workspace, key ${i + 1}`}
                    className="w-[104px]"
                    value={row.sets[0] ?? ''}
                    options={[{ value: '', words: 'everywhere' }, ...workspaces.map((value) => ({ value, words: value }))]}
                    onPick={(set) => change(i, { sets: set === '' ? [] : [set] })}
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
                  row.phrase !== null && <Reading phrase={row.phrase} />
                )}
              </li>
            ))}
          </ul>
          <KeyDrawing
            rows={rows}
            onPick={(key) => {
              if (!rows.some((row) => row.key === key)) setRows([...rows, { key, phrase: 'buy 100 at bid', command: null, sets: [] }]);
            }}
          />
          {rows.length === 0 && <p className="text-quiet">No key is bound; the order layer has its own.</p>}
          <div className="mt-2 flex flex-wrap gap-1">
            <Button onClick={() => setRows([...rows, { key: freeKey(taken) ?? 'F13', phrase: 'buy 100 at bid', command: null, sets: [] }])}>bind a key</Button>
            <Button onClick={() => setRows([...rows, { key: 'F13', phrase: null, command: commandIds()[0] ?? 'all-keys', sets: [] }])}>bind a command</Button>
            <Button onClick={() => void save()} disabled={!changed || wrong.some((one) => one !== null)}>
              {changed ? 'save the keys' : 'saved'}
            </Button>
            <Button onClick={() => void paste()}>paste JSON</Button>
            <JsonFile what="keys" saved={rows.length === 0 ? null : { file: 'kavix-keys.json', value: keySetOf(rows) }} onText={take} />
          </div>
          {taking !== null && <p className="mt-1">{taking}</p>}
          {refused !== null && <p className="plate heather mt-1 whitespace-normal">{refused}</p>}
        </div>
        <div>
          <details open>
            <summary>a grid of keys</summary>
            <GridBuilder onWrite={(keys) => setRows([...rows.filter(({ key }) => !keys.some((one) => one.key === key)), ...keys])} />
          </details>
          <details className="mt-2" open>
            <summary>try and practise</summary>
            <div className="flex flex-col gap-1">
              <TryIt rows={saved.items} />
              <KeyDrill rows={saved.items} />
            </div>
          </details>
        </div>
      </div>
    </Section>
  );
}

function problemOf(row: BoundKey, i: number, rows: readonly BoundKey[]): string | null {
  const wrong = bindingProblem(row);
  if (wrong) return wrong.message;
  const name = keyName(row.key);
  const together = (sets: readonly string[]): boolean => sets.length === 0 || row.sets.length === 0 || sets.some((set) => row.sets.includes(set));
  const other = rows.findIndex((one, k) => k < i && keyName(one.key) === name && together(one.sets));
  return other < 0 ? null : `${name ?? row.key} is bound already, to “${rows[other]?.phrase ?? rows[other]?.command ?? ''}”`;
}

/** Press a key to bind it; with `Space` held, in the order layer. */
function KeyField({ value, number, onChange }: { value: string; number: number; onChange: (key: string) => void }) {
  const press = usePressed(onChange);
  return (
    <input
      className="field w-[110px]"
      aria-label={`Key ${number}: press it`}
      title="Press the key; hold Space with it for the order layer"
      value={value}
      readOnly
      {...press}
    />
  );
}
