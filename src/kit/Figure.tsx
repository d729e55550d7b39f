import { tintGround } from './tint.ts';
import { writeText } from './write.ts';

/** Writes a figure into an element: leading digits that stayed are quiet, changed ones strong. */
export function writeFigure(element: HTMLElement, text: string, tint?: 'up' | 'down' | null): void {
  const before = element.dataset['text'];
  if (before === text) return;
  let same = 0;
  if (before !== undefined && before.length === text.length) while (same < text.length && before[same] === text[same]) same++;
  element.dataset['text'] = text;
  const [lead, tail] = element.childNodes;
  if (lead instanceof HTMLElement && tail instanceof HTMLElement) {
    writeText(lead, text.slice(0, same));
    writeText(tail, text.slice(same));
  } else {
    const first = document.createElement('span');
    first.className = 'lead';
    const second = document.createElement('span');
    second.className = 'tail';
    first.textContent = text.slice(0, same);
    second.textContent = text.slice(same);
    element.replaceChildren(first, second);
  }
  if (tint && before !== undefined) tintGround(element, tint);
}

const SIGNED = /^-/;
/** A result as the trade writes it: with + or the true minus sign. */
export const signed = (text: string): string => (SIGNED.test(text) ? `−${text.slice(1)}` : /^[0.,]*$/.test(text) ? text : `+${text}`);

/** Up runs right, down runs wrong, nothing is plain. */
export const resultClass = (text: string): string => (SIGNED.test(text) ? 'down' : Number(text) > 0 ? 'up' : '');

/** Thousands separated by commas, and the true minus sign; everything else stays. */
export function grouped(text: string): string {
  const [whole = '', fraction] = text.split('.');
  const spaced = whole.replace(/\B(?=(\d{3})+$)/g, ',');
  const minus = spaced.replace(/^(~?)-/, '$1−');
  return fraction === undefined ? minus : `${minus}.${fraction}`;
}

/** A figure with at most so many places: shortened ones carry the mark `~`, and the full one belongs in the tooltip. */
export function shortened(text: string, places: number): string {
  const fraction = text.split('.')[1] ?? '';
  return fraction.length <= places ? text : `~${Number(text).toFixed(places)}`;
}

/** A figure with at least so many places. */
export const lengthened = (text: string, places: number): string => ((text.split('.')[1] ?? '').length >= places ? text : Number(text).toFixed(places));

const FIGURE = /^-?\d+(\.\d+)?$/;
/** A price has at most so many places; what has more was computed. */
const PRICE_PLACES = 3;

/** The places at which a column of figures stands on its point: all of prices, fewer of what was computed. Words count for nothing. */
export function placesOf(texts: readonly string[]): number {
  const figures = texts.filter((text) => FIGURE.test(text));
  const longest = Math.max(0, ...figures.map((text) => (text.split('.')[1] ?? '').length));
  if (longest <= PRICE_PLACES) return longest;
  return Math.max(...figures.map((text) => Math.abs(Number(text)))) >= 1 ? 2 : 4;
}

/** A figure with just so many places, in groups; {@link shortened} ones are marked. A word stays as it is. */
export const figureTo = (text: string, places: number): string => (FIGURE.test(text) ? grouped(shortened(lengthened(text, places), places)) : text);

/** A result with at most so many places: shortened as {@link shortened}, written as {@link signed}. */
export function signedShort(text: string, places: number): string {
  const short = shortened(text, places);
  return short.startsWith('~') ? `~${signed(short.slice(1))}` : signed(short);
}

/** A statistic to so many places, in groups: an average is rounded by its nature, so nothing marks that it was. */
export const statistic = (text: string, places = 2): string => grouped(Number(text).toFixed(places));
export const signedStatistic = (text: string, places = 2): string => {
  const size = grouped(Math.abs(Number(text)).toFixed(places));
  return signed(Number(text) < 0 && /[1-9]/.test(size) ? `-${size}` : size);
};
