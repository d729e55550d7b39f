import { useEffect, useRef } from 'react';

/** Writes a figure into an element: leading digits that stayed are quiet, changed ones strong. */
export function writeFigure(element: HTMLElement, text: string, tint?: 'up' | 'down' | null): void {
  const before = element.dataset['text'];
  if (before === text) return;
  let same = 0;
  if (before !== undefined && before.length === text.length) while (same < text.length && before[same] === text[same]) same++;
  element.dataset['text'] = text;
  const [lead, tail] = element.childNodes;
  if (lead instanceof HTMLElement && tail instanceof HTMLElement) {
    lead.textContent = text.slice(0, same);
    tail.textContent = text.slice(same);
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

const TINT_MS = 300;
const tints = new WeakMap<HTMLElement, { at: number; animation: Animation }>();

/** Tints the ground of a changed figure and lets it fade; with reduced motion, or where a pane wants none, nothing. */
function tintGround(element: HTMLElement, way: 'up' | 'down'): void {
  const now = performance.now();
  const running = tints.get(element);
  // Figures that change faster than the tint fades are tinted already.
  if (running && now - running.at < TINT_MS / 2) return;
  if (stillMotion.matches || element.closest('[data-colours="still"]')) return;
  running?.animation.cancel();
  const ground = `color-mix(in srgb, var(--${way === 'up' ? 'teal' : 'copper'}) 14%, transparent)`;
  tints.set(element, { at: now, animation: element.animate([{ backgroundColor: ground }, { backgroundColor: 'transparent' }], TINT_MS) });
}

const stillMotion = typeof matchMedia === 'undefined' ? { matches: true } : matchMedia('(prefers-reduced-motion: reduce)');

/** A figure that follows a source by itself: React renders the cell, the source writes the text. */
export function LiveFigure(props: {
  subscribe: (write: (text: string, tint?: 'up' | 'down' | null) => void) => () => void;
  className?: string;
  label?: string;
}) {
  const ref = useRef<HTMLSpanElement>(null);
  const { subscribe } = props;
  useEffect(() => {
    const element = ref.current;
    if (!element) return undefined;
    return subscribe((text, tint) => writeFigure(element, text, tint));
  }, [subscribe]);
  return <span ref={ref} className={`figure ${props.className ?? ''}`} aria-label={props.label} />;
}

const SIGNED = /^-/;
/** A result as the trade writes it: with + or the true minus sign. */
export const signed = (text: string): string => (SIGNED.test(text) ? `−${text.slice(1)}` : Number(text) === 0 ? text : `+${text}`);

/** Up runs right, down runs wrong, nothing is plain. */
export const resultClass = (text: string): string => (SIGNED.test(text) ? 'down' : Number(text) > 0 ? 'up' : '');

/** Thousands separated by commas; everything else stays. */
export function grouped(text: string): string {
  const [whole = '', fraction] = text.split('.');
  const spaced = whole.replace(/\B(?=(\d{3})+$)/g, ',');
  return fraction === undefined ? spaced : `${spaced}.${fraction}`;
}

/** A figure with at most so many places: shortened ones carry the mark `~`, and the full one belongs in the tooltip. */
export function shortened(text: string, places: number): string {
  const fraction = text.split('.')[1] ?? '';
  return fraction.length <= places ? text : `~${Number(text).toFixed(places)}`;
}
