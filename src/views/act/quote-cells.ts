import { asPrice, formatPrice, type Instrument } from '../../core/instrument/index.ts';
import { clockText } from '../../kit/clock.ts';
import { grouped, resultClass, shortened, signed, writeFigure } from '../../kit/Figure.tsx';
import { paintNoMore, paintSoon } from '../../kit/pace.ts';
import { writeClass, writeText, writeTitle } from '../../kit/write.ts';
import { $positions, followQuote, quoteOf, type LiveQuote, zoneOf } from '../../live/index.ts';

/** What a column sorts by. */
export function sortValue(instrument: Instrument, column: string): number | string | undefined {
  const quote = quoteOf(instrument.id);
  const text = quote?.text;
  const number = (value: string | null | undefined): number | undefined => (value === null || value === undefined ? undefined : Number(value));
  switch (column) {
    case 'name':
      return instrument.name;
    case 'kind':
      return instrument.kind;
    case 'venue':
      return instrument.venue;
    case 'sector':
      return instrument.sector ?? undefined;
    case 'percent':
      return number(text?.changePercent);
    case 'previous':
      return number(text?.previousSettlement);
    case 'balance':
      return text?.bidQuantity && text.askQuantity ? Number(text.bidQuantity) / (Number(text.bidQuantity) + Number(text.askQuantity)) : undefined;
    case 'spread':
      return quote?.bid && quote.ask ? (quote.ask - quote.bid) / 10 ** instrument.priceDecimals : undefined;
    case 'position':
    case 'result': {
      const held = Object.values($positions.get()).filter((position) => position.instrument === instrument.id);
      return held.reduce((sum, position) => sum + Number(column === 'position' ? position.quantity : position.unrealised), 0);
    }
    default: {
      const value = text?.[column as keyof typeof text];
      return typeof value === 'string' ? (Number.isNaN(Number(value)) ? value : Number(value)) : undefined;
    }
  }
}

/**
 * Follows an instrument's quote into the cells of its row, painted with all panes.
 *
 * @returns ends it
 */
export function followInRow(row: HTMLElement, instrument: Instrument, decimals: string): () => void {
  const stop = followQuote(instrument.id, (quote) => paintSoon(row, () => writeRow(row, instrument, quote, decimals)));
  return () => {
    stop();
    paintNoMore(row);
  };
}

/** Writes a quote into the cells of its row. */
function writeRow(row: HTMLElement, instrument: Instrument, quote: LiveQuote, decimals: string): void {
  const { text } = quote;
  const short = (value: string): string => (decimals === 'own' ? value : shortened(value, Number(decimals)));
  for (const cell of row.querySelectorAll<HTMLElement>('[data-column]')) {
    const column = cell.dataset['column'] ?? '';
    switch (column) {
      case 'last': {
        const now = text.last ?? (text.previousSettlement === null ? '–' : `[${text.previousSettlement}]`);
        const before = Number(cell.dataset['exact']);
        cell.dataset['exact'] = text.last ?? '';
        writeFigure(cell, now, Number(now) > before ? 'up' : Number(now) < before ? 'down' : null);
        break;
      }
      case 'bid':
      case 'ask':
        cell.dataset['price'] = text[column] ?? '';
        writeFigure(cell, text[column] ?? '–');
        break;
      case 'change':
      case 'percent': {
        const value = column === 'change' ? text.change : text.changePercent;
        writeText(cell, value === null ? '–' : signed(value));
        writeClass(cell, `figure ${resultClass(value ?? '0')}`);
        break;
      }
      case 'bidQuantity':
      case 'askQuantity':
      case 'lastQuantity':
      case 'volume': {
        const value = text[column];
        writeText(cell, value === null ? '–' : grouped(short(value)));
        writeTitle(cell, value ?? '');
        break;
      }
      case 'vwap':
        writeText(cell, text.vwap === null ? '–' : shortened(text.vwap, instrument.priceDecimals + 1));
        writeTitle(cell, text.vwap ?? '');
        break;
      case 'previous':
        writeText(cell, text.previousSettlement ?? '–');
        break;
      case 'spread':
        writeText(cell, quote.bid === null || quote.ask === null ? '–' : formatPrice(instrument, asPrice(Math.max(0, quote.ask - quote.bid))));
        break;
      case 'lastTime':
        writeText(cell, text.lastTime === null ? '–' : clockText(zoneOf(instrument.id), text.lastTime));
        break;
      case 'limits':
        writeText(
          cell,
          text.priceLimits.lower === null && text.priceLimits.upper === null ? '–' : `${text.priceLimits.lower ?? ''}–${text.priceLimits.upper ?? ''}`,
        );
        break;
      case 'balance':
        writeBalance(cell, text.bidQuantity, text.askQuantity);
        break;
      default: {
        const value = text[column as 'open'];
        writeText(cell, value ?? '–');
      }
    }
  }
}

/** Displayed quantity at the best prices: the bid's share from the left, the ask's from the right. */
function writeBalance(cell: HTMLElement, bid: string | null, ask: string | null): void {
  const bar = cell.firstElementChild as HTMLElement | null;
  if (!bar) return;
  const share = bid === null && ask === null ? null : Math.round((Number(bid ?? 0) / (Number(bid ?? 0) + Number(ask ?? 0) || 1)) * 100);
  bar.style.background = share === null ? '' : `linear-gradient(to right, var(--weed) ${share}%, var(--copper) ${share}%)`;
  cell.title = share === null ? '' : `bid ${bid ?? '–'} · ask ${ask ?? '–'}`;
}
