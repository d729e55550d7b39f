import { useMemo } from 'react';
import { Button } from '../../../kit/Button.tsx';
import { Dialog } from '../../../kit/Dialog.tsx';
import { readRows } from './list-file.ts';
import type { WatchRow } from './watchlists.ts';

/** Pasted or imported rows before they are taken: what is unknown is named, the rest is offered. */
export function PasteDialog(props: { text: string; name: string; onText: (text: string) => void; onDone: (rows: readonly WatchRow[] | null) => void }) {
  const { text, name, onText, onDone } = props;
  const read = useMemo(() => readRows(text), [text]);
  const count = read.rows.filter((row) => 'instrument' in row).length;
  return (
    <Dialog title={`Add to ${name}`} onClose={() => onDone(null)}>
      <textarea
        autoFocus
        className="field h-[160px] w-full py-1"
        aria-label="Symbols, one to a line"
        placeholder={'GANET\nKELPA.HALM\nCARB-EUR'}
        value={text}
        onChange={(event) => onText(event.target.value)}
      />
      {read.unknown.length > 0 && (
        <p className="mt-2" role="status">
          <span className="plate heather">not known</span>{' '}
          {read.unknown
            .slice(0, 12)
            .map(({ line, text: symbol }) => `${symbol} (line ${line})`)
            .join(', ')}
          {read.unknown.length > 12 && ` and ${read.unknown.length - 12} more`}
        </p>
      )}
      <div className="mt-2 flex justify-end gap-2">
        <Button onClick={() => onDone(null)}>Leave it</Button>
        <Button disabled={count === 0} onClick={() => onDone(read.rows)}>
          Add {count} {count === 1 ? 'instrument' : 'instruments'}
        </Button>
      </div>
    </Dialog>
  );
}
