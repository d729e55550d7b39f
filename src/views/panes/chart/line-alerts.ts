import { answer } from '../../../client/answers.ts';
import { asPrice, formatPrice, gridFloor, type Instrument } from '../../../core/instrument/index.ts';
import { $alerts, instrumentOf, problemWords, request, type ApiAlert } from '../../../live/index.ts';
import type { Drawing, DrawingKind } from './drawing.ts';

/** What can be crossed. */
const CROSSED: ReadonlySet<DrawingKind> = new Set(['trend line', 'ray', 'horizontal line']);

export const canTell = ({ kind }: Drawing): boolean => CROSSED.has(kind);

const onGrid = (instrument: Instrument, price: number): string =>
  formatPrice(instrument, gridFloor(instrument, asPrice(Math.round(price * 10 ** instrument.priceDecimals))));

/** Where an alert of a drawing waits: at its price where it is level, else where it stands from moment to moment. */
export function lineTerms({ kind, points }: Drawing, instrument: Instrument): Pick<ApiAlert, 'price' | 'line'> | null {
  const ends = [...points].sort((a, b) => a.time - b.time);
  const [first, last] = ends.map(({ time, price }) => ({ time: new Date(time).toISOString(), price: onGrid(instrument, price) }));
  if (!first) return null;
  if (kind === 'horizontal line' || !last || last.time === first.time) return { price: first.price, line: null };
  return { price: null, line: { from: first, to: last } };
}

/** The alert that waits for a drawing to be crossed. */
export function alertOf({ alert }: Drawing): ApiAlert | null {
  const found = alert === undefined ? undefined : $alerts.get()?.[alert];
  return found === undefined || found.state === 'ended' ? null : found;
}

/** Makes an alert of a drawing. @returns its id, or null with the pane told why not */
export async function tellWhenCrossed(pane: string, drawing: Drawing, instrument: Instrument): Promise<string | null> {
  const terms = lineTerms(drawing, instrument);
  if (!terms) return null;
  const at = terms.line === null ? { price: terms.price } : { line: terms.line };
  const done = await request('POST /api/alerts', { body: { kind: 'price', instrument: instrument.id, ...at, fires: 'once', sound: 'bell' } });
  if (done.ok) answer(pane, 'done', 'tells when the line is crossed, wherever it is pulled');
  else answer(pane, 'refused', problemWords(done.problem));
  return done.ok ? done.value.id : null;
}

/** No alert waits for the drawing any more. */
export async function tellNoMore(pane: string, alert: ApiAlert): Promise<void> {
  const done = await request('DELETE /api/alerts/{id}', { path: { id: alert.id } });
  if (!done.ok) answer(pane, 'refused', problemWords(done.problem));
}

/** The alerts whose drawings stand elsewhere now, and where they are to wait. */
export function movedAlerts(
  instrument: Instrument,
  before: readonly Drawing[],
  after: readonly Drawing[],
): { id: string; terms: Pick<ApiAlert, 'price' | 'line'> }[] {
  return after.flatMap((drawing) => {
    const was = before.find(({ id }) => id === drawing.id);
    const alert = alertOf(drawing);
    if (!was || !alert || JSON.stringify(was.points) === JSON.stringify(drawing.points)) return [];
    const terms = lineTerms(drawing, instrument);
    return terms ? [{ id: alert.id, terms }] : [];
  });
}

/** Alerts go with the lines that were pulled. */
export function moveAlerts(id: string, before: readonly Drawing[], after: readonly Drawing[]): void {
  const instrument = instrumentOf(id);
  for (const { id: alert, terms } of instrument ? movedAlerts(instrument, before, after) : [])
    void request('PATCH /api/alerts/{id}', { path: { id: alert }, body: terms });
}
