import { useStore } from '@nanostores/react';
import { X } from 'lucide-react';
import { answer } from '../../../client/answers.ts';
import { breakoutPair, openPair } from '../../../client/gestures/index.ts';
import { sizeOf } from '../../../client/session.ts';
import { NO_QUANTITY, asPrice, gridCeil, gridFloor, parseQuantity, type Instrument } from '../../../core/instrument/index.ts';
import { FLOAT } from '../../../kit/floats.ts';
import { Menu, MenuItem } from '../../../kit/Menu.tsx';
import { $alerts, quoteOf } from '../../../live/index.ts';
import type { ChartController } from './controller.ts';
import { $drawings, changeDrawings, tieAlert } from './drawing-store.ts';
import { DRAWING_KINDS, standsHigh, type Drawing } from './drawings.ts';
import { alertOf, canTell, tellNoMore, tellWhenCrossed } from './line-alerts.ts';
import { Button } from '../../../kit/Button.tsx';
import { Look } from './StudiesMenu.tsx';
import { AXIS_PX } from './viewport.ts';

/** Where a bar over the plot begins below the data line. */
const UNDER_DATA_PX = 22;

/** What can be drawn; the tool stays in hand until its points are set or Esc. */
export function DrawMenu({ plot }: { plot: ChartController }) {
  useStore($drawings);
  const tool = useStore(plot.$tool);
  const { id } = plot.of.instrument;
  const count = plot.allDrawings().length;
  return (
    <Menu
      trigger={
        <button type="button" className={`whitespace-nowrap ${tool ? 'plate pending' : 'text-quiet'}`}>
          {tool ? `draws a ${tool}` : 'Draw'}
        </button>
      }
    >
      {DRAWING_KINDS.map((kind) => (
        <MenuItem key={kind} onPick={() => plot.$tool.set(kind)}>
          {kind}
        </MenuItem>
      ))}
      {tool && <MenuItem onPick={() => plot.$tool.set(null)}>nothing</MenuItem>}
      {count > 0 && <MenuItem onPick={() => changeDrawings(id, [], `all drawings on ${id}`)}>Take all {count} away</MenuItem>}
    </Menu>
  );
}

/** The selected drawing's own line: how it looks, where it shows, whether it can be moved. It leaves the drawing's half of the plot free. */
export function DrawingBar({ plot, drawing }: { plot: ChartController; drawing: Drawing }) {
  const { pane, account, interval, instrument } = plot.of;
  const change = (items: readonly Drawing[]): void => changeDrawings(instrument.id, items, `the ${drawing.kind}`);
  const set = (next: Drawing): void => change(plot.allDrawings().map((one) => (one.id === next.id ? next : one)));
  useStore($alerts);
  const alert = alertOf(drawing);
  const { view } = plot.model;
  const tell = async (): Promise<void> => {
    const made = await tellWhenCrossed(pane, drawing, instrument);
    if (made !== null) tieAlert(instrument.id, drawing.id, made);
  };
  return (
    <div
      className={`${FLOAT} absolute left-1 z-20 flex flex-wrap items-center gap-2 px-2 py-1`}
      style={{
        maxWidth: `calc(100% - ${AXIS_PX + view.stripPx + 8}px)`,
        ...(standsHigh(plot.model, drawing) ? { bottom: view.height - view.plotHeight + 4 } : { top: UNDER_DATA_PX }),
      }}
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
      {canTell(drawing) && (
        <Button
          title="An alert that goes with the line, and on beyond its points"
          aria-pressed={alert !== null}
          onClick={() => void (alert ? tellNoMore(pane, alert) : tell())}
        >
          {alert ? 'tells when crossed' : 'tell me when crossed'}
        </Button>
      )}
      {drawing.kind === 'rectangle' && (
        <Button title="Stops at its top and bottom: the one that fills cancels the other" onClick={() => pairOf(pane, account, instrument, drawing)}>
          breakout pair
        </Button>
      )}
      <button
        type="button"
        className="grid h-[24px] w-[24px] place-items-center"
        aria-label={`Delete the ${drawing.kind}`}
        disabled={drawing.locked}
        onClick={() => {
          change(plot.allDrawings().filter((one) => one.id !== drawing.id));
          plot.$selected.set(null);
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
