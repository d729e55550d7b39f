import { useId, useRef, useState } from 'react';
import { createPortal } from 'react-dom';
import { FLOAT_APART } from '../../../kit/floats.ts';
import { InstrumentName } from '../../../kit/Instrument.tsx';
import { MENU_ITEM } from '../../../kit/Menu.tsx';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table } from '../../../kit/Table.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { laidOut } from '../../../kit/scale.ts';
import { findInstruments, hasOptions, instrumentOf, type AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';

const MOST_FOUND = 8;

interface Props {
  readonly label: string;
  readonly value: string;
  readonly onPick: (instrument: string) => void;
  readonly cell: Readonly<Record<`data-${string}`, string>>;
}

/** An instrument that is looked up as it is typed: listings and kinds told apart, its options in a small chain beside it. */
export function InstrumentCell({ label, value, onPick, cell }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const [at, setAt] = useState(0);
  const field = useRef<HTMLInputElement>(null);
  const list = useId();
  const found = typed === null || typed.trim() === '' ? [] : findInstruments(typed).slice(0, MOST_FOUND);
  const pick = (index: number): void => {
    const picked = found[index]?.instrument.id;
    if (picked !== undefined) onPick(picked);
    setTyped(null);
  };
  const place = found.length > 0 ? field.current?.getBoundingClientRect() : undefined;
  return (
    <span className="flex items-center gap-1">
      <input
        ref={field}
        {...cell}
        className="field w-[172px]"
        role="combobox"
        aria-label={label}
        aria-expanded={found.length > 0}
        aria-controls={list}
        aria-activedescendant={found.length > 0 ? `${list}-${at}` : undefined}
        aria-autocomplete="list"
        autoComplete="off"
        spellCheck={false}
        value={typed ?? value}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onBlur={() => {
          if (typed !== null) pick(at);
        }}
        onKeyDown={(event) => {
          if (found.length === 0) return;
          if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
            event.preventDefault();
            event.stopPropagation();
            setAt((at + (event.key === 'ArrowDown' ? 1 : found.length - 1)) % found.length);
          }
          if (event.key === 'Enter') {
            event.preventDefault();
            event.stopPropagation();
            pick(at);
          }
          if (event.key === 'Escape') {
            event.stopPropagation();
            setTyped(null);
          }
        }}
      />
      {hasOptions(value) && <MiniChain underlying={value} onPick={onPick} />}
      {place &&
        createPortal(
          <ul
            id={list}
            role="listbox"
            aria-label="Instruments found"
            className={`${FLOAT_APART} fixed p-1`}
            style={{ left: laidOut(place.left), top: laidOut(place.bottom + 2) }}
          >
            {found.map(({ instrument }, index) => (
              <li
                key={instrument.id}
                id={`${list}-${index}`}
                role="option"
                aria-selected={index === at}
                className={MENU_ITEM}
                onPointerDown={(event) => {
                  event.preventDefault();
                  pick(index);
                }}
              >
                <InstrumentName id={instrument.id} />
                <span className="ml-auto text-quiet">
                  {instrument.kind} · {instrument.name}
                </span>
              </li>
            ))}
          </ul>,
          document.body,
        )}
    </span>
  );
}

type Strike = AnswerOf<'GET /api/options/{underlying}'>['rows'][number];

/** The options of a share, by strike: a press puts one in its place. */
function MiniChain({ underlying, onPick }: { underlying: string; onPick: (instrument: string) => void }) {
  const [open, setOpen] = useState(false);
  const [expiry, setExpiry] = useState<string | undefined>(undefined);
  const { data: chain } = useAsked('GET /api/options/{underlying}', { path: { underlying }, query: { expiry } }, { when: open, everyMs: 1000 });
  const take = (option: string) => (): void => {
    setOpen(false);
    onPick(option);
  };
  const side = (cell: Strike['call']) =>
    cell && (
      <button
        type="button"
        className="figure w-full text-right"
        aria-label={`${cell.instrument}: bid and ask ${cell.bid ?? '–'} / ${cell.ask ?? '–'}`}
        onClick={take(cell.instrument)}
      >
        {cell.bid ?? '–'} / {cell.ask ?? '–'}
      </button>
    );
  const columns: readonly GridColumn<Strike>[] = [
    { id: 'calls', head: 'calls', figure: true, cell: ({ call }) => side(call) },
    { id: 'strike', head: 'strike', figure: true, cell: ({ strike }) => strike },
    { id: 'puts', head: 'puts', figure: true, cell: ({ put }) => side(put) },
  ];
  return (
    <Popover
      label={`Options of ${underlying}`}
      open={open}
      onOpen={setOpen}
      trigger={
        <button type="button" className="text-quiet underline underline-offset-4" aria-label={`options of ${instrumentOf(underlying)?.ticker ?? underlying}`}>
          options
        </button>
      }
    >
      <div className="flex gap-2 pb-1" role="group" aria-label="Expiry">
        {(chain?.expiries ?? []).map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={one === chain?.expiry}
            className={one === chain?.expiry ? 'font-bold' : 'text-quiet'}
            onClick={() => setExpiry(one)}
          >
            {one}
          </button>
        ))}
      </div>
      <Table name={`Options of ${underlying} by strike`} plain rows={chain?.rows ?? []} columns={columns} keyOf={({ strike }) => strike} />
    </Popover>
  );
}
