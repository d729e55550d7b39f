import { useStore } from '@nanostores/react';
import { DndContext, KeyboardSensor, PointerSensor, closestCenter, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { SortableContext, arrayMove, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { GripVertical } from 'lucide-react';
import { ContextMenu } from 'radix-ui';
import { useEffect, useRef, useState } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { grouped, resultClass, shortened, signed, writeFigure } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { paintInView } from '../../kit/in-view.ts';
import { followQuote, type LiveQuote } from '../../live/index.ts';
import { dragsInstrument, takesInstrument } from '../workspace/drag.ts';
import { setting } from '../workspace/pane-settings.ts';
import { $letters, $panes, setInstrument, settingOf, targetOf } from '../workspace/panes.ts';
import { TextCell } from '../../kit/TextCell.tsx';
import { writeClass, writeText, writeTitle } from '../../kit/write.ts';
import { ListMenu } from './ListMenu.tsx';
import { $watchlists, COAST, changeWatchlist, loadWatchlist, type WatchRow } from './watchlists.ts';
import { usePaneCommands } from '../act/keys.ts';

const keyOf = (row: WatchRow, i: number): string => ('section' in row ? `section ${i} ${row.section}` : `${i} ${row.instrument}`);
const COLUMN_WORDS: Readonly<Record<string, string>> = { last: 'last', percent: '%', change: 'change', volume: 'volume', mark: '', note: 'note' };
const WIDTHS: Readonly<Record<string, number>> = { last: 58, percent: 52, change: 56, volume: 76, mark: 22, note: 110 };

/** One of the trader's own lists; a press or an arrow key walks it, and the linked panes follow. */
export function WatchlistPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const name = settingOf(pane, 'list', COAST);
  const list = useStore($watchlists)[name];
  const columns = setting<readonly string[]>(pane, 'columns');
  const decimals = setting<string>(pane, 'decimals');
  const target = targetOf(id);
  const [note, setNote] = useState<number | null>(null);
  useEffect(() => void loadWatchlist(name), [name, list]);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const rows = list?.rows ?? [];
  const change = (next: readonly WatchRow[], words: string): void => void changeWatchlist(name, next, words);
  const add = (instrument: string): void => {
    if (!rows.some((row) => 'instrument' in row && row.instrument === instrument)) change([...rows, { instrument }], `${instrument} in ${name}`);
  };
  const walk = (step: number): void => {
    const own = rows.flatMap((row) => ('instrument' in row ? [row.instrument] : []));
    const at = own.indexOf(target?.instrument ?? '');
    const next = own[Math.max(0, Math.min(own.length - 1, at + step))];
    if (next) setInstrument(id, next);
  };
  const onDragEnd = ({ active, over }: DragEndEvent): void => {
    const from = rows.findIndex((row, i) => keyOf(row, i) === active.id);
    const to = rows.findIndex((row, i) => keyOf(row, i) === over?.id);
    if (from >= 0 && to >= 0 && from !== to) change(arrayMove([...rows], from, to), `the order of ${name}`);
  };
  const missing = target && list && !rows.some((row) => 'instrument' in row && row.instrument === target.instrument) ? target.instrument : null;
  const at = rows.findIndex((row) => 'instrument' in row && row.instrument === target?.instrument);
  const notThere = at < 0 ? 'what is shown is not in this list' : null;
  usePaneCommands(id, [
    { keys: ['ArrowDown'], words: 'the next instrument', repeats: true, run: () => walk(1) },
    { keys: ['ArrowUp'], words: 'the instrument before', repeats: true, run: () => walk(-1) },
    {
      keys: ['Delete'],
      words: 'take the shown instrument out of the list',
      cannot: () => notThere,
      run: () => change(rows.filter((_, i) => i !== at), `${target?.instrument ?? ''} in ${name}`), // prettier-ignore
    },
    { keys: ['F2'], words: 'a note for the shown instrument', cannot: () => notThere, run: () => setNote(at) },
  ]);
  return (
    <div className="flex h-full flex-col">
      <ListMenu id={id} name={name} rows={rows} />
      <div className="scroll min-h-0 flex-1" tabIndex={0} role="group" aria-label="Instruments" {...takesInstrument(add)}>
        {!list && <div className="skeleton h-full" role="status" aria-label="Loading the list" />}
        {list && rows.length === 0 && <p className="p-2 quiet">{name} is empty. Drag an instrument here, paste a column of symbols, or add the linked one.</p>}
        <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
          <SortableContext items={rows.map(keyOf)} strategy={verticalListSortingStrategy}>
            <table className="list narrow">
              <caption className="sr-only">Watchlist {name}</caption>
              <thead>
                <tr>
                  <th className="w-[14px] !p-0">
                    <span className="sr-only">move</span>
                  </th>
                  <th>instrument</th>
                  {columns.map((column) => (
                    <th key={column} className={column === 'note' ? '' : 'right'} style={{ width: WIDTHS[column] }}>
                      {COLUMN_WORDS[column] || <span className="sr-only">{column}</span>}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map((row, i) => (
                  <Row
                    key={keyOf(row, i)}
                    sortKey={keyOf(row, i)}
                    row={row}
                    columns={columns}
                    decimals={decimals}
                    selected={'instrument' in row && row.instrument === target?.instrument}
                    editsNote={note === i}
                    onPick={() => 'instrument' in row && setInstrument(id, row.instrument)}
                    onEdit={() => setNote(i)}
                    onChange={(next) => {
                      setNote(null);
                      if (next === null) change(rows.filter((_, at) => at !== i), `a row of ${name}`); // prettier-ignore
                      else if (next !== row) change(rows.map((one, at) => (at === i ? next : one)), `a row of ${name}`); // prettier-ignore
                    }}
                  />
                ))}
              </tbody>
            </table>
          </SortableContext>
        </DndContext>
      </div>
      {missing && (
        <button type="button" className="control m-1 shrink-0" onClick={() => add(missing)}>
          Add {missing}
        </button>
      )}
    </div>
  );
}

interface RowProps {
  readonly row: WatchRow;
  readonly sortKey: string;
  readonly columns: readonly string[];
  readonly decimals: string;
  readonly selected: boolean;
  readonly editsNote: boolean;
  readonly onPick: () => void;
  readonly onEdit: () => void;
  /** Null takes the row out; the same row leaves it as it is. */
  readonly onChange: (row: WatchRow | null) => void;
}

function Row(props: RowProps) {
  const { row, sortKey, columns, decimals, selected, editsNote, onPick, onEdit, onChange } = props;
  const { setNodeRef, attributes, listeners, transform, isDragging } = useSortable({ id: sortKey });
  const element = useRef<HTMLTableRowElement | null>(null);
  const instrument = 'instrument' in row ? row.instrument : null;
  useEffect(() => {
    if (instrument === null || element.current === null) return undefined;
    const write = ({ text }: LiveQuote): void => {
      const cell = (name: string): HTMLElement | null => element.current?.querySelector<HTMLElement>(`[data-column="${name}"]`) ?? null;
      const last = cell('last');
      const now = text.last ?? text.previousSettlement ?? '–';
      const before = Number(last?.dataset['exact']);
      if (last) {
        last.dataset['exact'] = now;
        writeTitle(last, now);
        writeFigure(
          last,
          decimals === 'own' || now === '–' ? now : shortened(now, Number(decimals)),
          Number(now) > before ? 'up' : Number(now) < before ? 'down' : null,
        );
      }
      for (const [name, value] of [
        ['percent', text.changePercent],
        ['change', text.change],
      ] as const) {
        const at = cell(name);
        if (!at) continue;
        writeText(at, value === null ? '–' : signed(value));
        writeClass(at, `figure ${resultClass(value ?? '0')}`);
      }
      const volume = cell('volume');
      if (volume) writeText(volume, grouped(text.volume));
    };
    const painted = paintInView(element.current, write);
    const stop = followQuote(instrument, painted.next);
    return () => {
      stop();
      painted.stop();
    };
  }, [instrument, columns, decimals]);
  const handle = (
    <td className="!p-0">
      <button
        type="button"
        className="grid h-[20px] w-[14px] cursor-grab place-items-center quiet"
        aria-label={`Move ${'section' in row ? row.section : row.instrument}`}
        {...attributes}
        {...listeners}
      >
        <GripVertical size={11} />
      </button>
    </td>
  );
  const style = { transform: transform ? `translateY(${Math.round(transform.y)}px)` : undefined, opacity: isDragging ? 0.6 : undefined };
  const inner =
    'section' in row ? (
      <tr ref={setNodeRef} style={style}>
        {handle}
        <th scope="rowgroup" colSpan={columns.length + 1} className="!static !h-[22px] !text-ink" onDoubleClick={onEdit}>
          {editsNote ? (
            <TextCell label={`New name of ${row.section}`} value={row.section} onDone={(section) => onChange(section ? { section } : row)} />
          ) : (
            row.section
          )}
        </th>
      </tr>
    ) : (
      <tr
        ref={(node) => {
          setNodeRef(node);
          element.current = node;
        }}
        style={style}
        aria-selected={selected}
        title={row.note}
        data-instrument={row.instrument}
        onPointerDown={(event) => event.button === 0 && !(event.target as HTMLElement).closest('button, input') && onPick()}
      >
        {handle}
        <td {...dragsInstrument(row.instrument)}>
          {row.mark && <span className="mr-1 rounded-[2px] border border-line px-[3px] text-[11px]">{row.mark}</span>}
          <InstrumentName id={row.instrument} />
          {row.note && <span className="quiet"> ·</span>}
          {editsNote && (
            <TextCell
              label={`Note on ${row.instrument}`}
              value={row.note ?? ''}
              onDone={(note) => onChange(note === null || note === (row.note ?? '') ? row : { ...row, note })}
            />
          )}
        </td>
        {columns.map((column) =>
          column === 'note' ? (
            <td key={column} className="truncate">
              {row.note}
            </td>
          ) : column === 'mark' ? (
            <td key={column} className="right">
              {row.mark}
            </td>
          ) : (
            <td key={column} className="figure" data-column={column} />
          ),
        )}
      </tr>
    );
  return (
    <ContextMenu.Root modal={false} onOpenChange={(open) => !open && notePopoverClosed()}>
      <ContextMenu.Trigger asChild>{inner}</ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className="floats p-1">
          {'instrument' in row && (
            <>
              <ContextMenu.Label className="px-2 quiet">Letter of {row.instrument}</ContextMenu.Label>
              <div className="grid grid-cols-7">
                {[...'ABCDEFGHIJKLMNOPQRSTUVWXYZ'].map((mark) => (
                  <ContextMenu.Item key={mark} className="menu-item !px-2" onSelect={() => onChange({ ...row, mark })}>
                    {mark}
                  </ContextMenu.Item>
                ))}
              </div>
              <ContextMenu.Item className="menu-item" onSelect={() => onChange({ ...row, mark: null })}>
                No letter
              </ContextMenu.Item>
              <ContextMenu.Item className="menu-item" onSelect={() => setTimeout(onEdit, 60)}>
                Note …
              </ContextMenu.Item>
            </>
          )}
          {'section' in row && (
            <ContextMenu.Item className="menu-item" onSelect={() => setTimeout(onEdit, 60)}>
              Rename the section
            </ContextMenu.Item>
          )}
          <ContextMenu.Item className="menu-item" onSelect={() => onChange(null)}>
            Take out
          </ContextMenu.Item>
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}
