import { X } from 'lucide-react';
import { answer } from '../../../client/answers.ts';
import { breakoutPair, openPair } from '../../../client/gestures/index.ts';
import { sizeOf } from '../../../client/session.ts';
import { NO_QUANTITY, asPrice, formatPrice, gridCeil, gridFloor, parseQuantity, type Instrument } from '../../../core/instrument/index.ts';
import { FLOAT } from '../../../kit/floats.ts';
import { Menu, MenuItem } from '../../../kit/Menu.tsx';
import { problemWords, quoteOf, request } from '../../../live/index.ts';
import { changeDrawings } from './drawing-store.ts';
import { DRAWING_KINDS, type Drawing, type DrawingKind } from './drawings.ts';
import { Button } from '../../../kit/Button.tsx';
import { Look } from './StudiesMenu.tsx';

/** What can be drawn; the tool stays in hand until its points are set or Esc. */
export function DrawMenu({
  tool,
  onTool,
  onClear,
  count,
}: {
  tool: DrawingKind | null;
  onTool: (tool: DrawingKind | null) => void;
  onClear: () => void;
  count: number;
}) {
  return (
    <Menu
      trigger={
        <button type="button" className={`whitespace-nowrap ${tool ? 'plate pending' : 'text-quiet'}`}>
          {tool ? `draws a ${tool}` : 'Draw'}
        </button>
      }
    >
      {DRAWING_KINDS.map((kind) => (
        <MenuItem key={kind} onPick={() => onTool(kind)}>
          {kind}
        </MenuItem>
      ))}
      {tool && <MenuItem onPick={() => onTool(null)}>nothing</MenuItem>}
      {count > 0 && <MenuItem onPick={onClear}>Take all {count} away</MenuItem>}
    </Menu>
  );
}

const CROSSED: ReadonlySet<DrawingKind> = new Set(['trend line', 'ray', 'horizontal line']);

/** Makes an alert of a line that is drawn: of its price where it is level, else of where it stands from moment to moment. */
async function tellWhenCrossed(pane: string, { kind, points }: Drawing, instrument: Instrument): Promise<void> {
  const ends = [...points].sort((a, b) => a.time - b.time);
  const [first, last] = ends.map(({ time, price }) => ({ time: new Date(time).toISOString(), price: onGrid(instrument, price) }));
  if (!first) return;
  const at = kind === 'horizontal line' || !last || last.time === first.time ? { price: first.price } : { line: { from: first, to: last } };
  const done = await request('POST /api/alerts', { body: { kind: 'price', instrument: instrument.id, ...at, fires: 'once', sound: 'bell' } });
  if (done.ok) answer(pane, 'done', 'tells when the line is crossed');
  else answer(pane, 'refused', problemWords(done.problem));
}

const onGrid = (instrument: Instrument, price: number): string =>
  formatPrice(instrument, gridFloor(instrument, asPrice(Math.round(price * 10 ** instrument.priceDecimals))));

interface BarProps {
  readonly pane: string;
  readonly account: string;
  readonly drawing: Drawing;
  readonly all: readonly Drawing[];
  readonly instrument: Instrument;
  readonly interval: string;
  readonly onGone: () => void;
}

/** The selected drawing's own line: how it looks, where it shows, whether it can be moved. */
export function DrawingBar({ pane, account, drawing, all, instrument: of, interval, onGone }: BarProps) {
  const instrument = of.id;
  const set = (next: Drawing): void => changeDrawings(instrument, all.map((one) => (one.id === next.id ? next : one)), `the ${drawing.kind}`); // prettier-ignore
  return (
    <div
      className={`${FLOAT} absolute left-1 top-[22px] z-20 flex flex-wrap items-center gap-2 px-2 py-1`}
      role="group"
      aria-label={`The ${drawing.kind}`}
      onPointerDown={(event) => event.stopPropagation()}
    >
      <Look colour={drawing.colour} width={drawing.width} stroke={drawing.stroke} onChange={(look) => set({ ...drawing, ...look })} />
      <input
        className="field w-[110px]"
        aria-label="Text"
        placeholder="text"
        maxLength={200}
        defaultValue={drawing.text}
        key={drawing.id}
        autoFocus={drawing.kind === 'text' && drawing.text === ''}
        onBlur={(event) => event.target.value !== drawing.text && set({ ...drawing, text: event.target.value })}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') event.currentTarget.blur();
        }}
      />
      <Button aria-pressed={drawing.locked} onClick={() => set({ ...drawing, locked: !drawing.locked })}>
        {drawing.locked ? 'locked' : 'lock'}
      </Button>
      <Button aria-pressed={drawing.interval !== null} onClick={() => set({ ...drawing, interval: drawing.interval === null ? interval : null })}>
        {drawing.interval === null ? 'on all intervals' : `on ${drawing.interval} only`}
      </Button>
      {CROSSED.has(drawing.kind) && (
        <Button title="Makes an alert of the line as it stands now; it goes on beyond its points" onClick={() => void tellWhenCrossed(pane, drawing, of)}>
          tell me when crossed
        </Button>
      )}
      {drawing.kind === 'rectangle' && (
        <Button title="Stops at its top and bottom: the one that fills cancels the other" onClick={() => pairOf(pane, account, of, drawing)}>
          breakout pair
        </Button>
      )}
      <button
        type="button"
        className="grid h-[24px] w-[24px] place-items-center"
        aria-label={`Delete the ${drawing.kind}`}
        disabled={drawing.locked}
        onClick={() => {
          changeDrawings(instrument, all.filter((one) => one.id !== drawing.id), `the ${drawing.kind}`); // prettier-ignore
          onGone();
        }}
      >
        <X size={12} />
      </button>
    </div>
  );
}

/** Opens the slip of a breakout pair at the top and bottom of a rectangle, or says why there is none. */
function pairOf(pane: string, account: string, instrument: Instrument, { points }: Drawing): void {
  const prices = points.map(({ price }) => price);
  const market = quoteOf(instrument.id);
  const quantity = parseQuantity(instrument, sizeOf(account, instrument.id)) ?? NO_QUANTITY;
  const bounds = { high: gridCeil(instrument, asPrice(Math.max(...prices))), low: gridFloor(instrument, asPrice(Math.max(1, Math.min(...prices)))) };
  const pair = market ? breakoutPair({ account, instrument, quantity, market }, bounds) : null;
  if (pair?.ok) openPair(pane, pair.value);
  else answer(pane, 'refused', pair?.refusal ?? 'no price to tell by');
}
