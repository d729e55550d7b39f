import { drawSoon } from './pace.ts';

/** How long a changed figure's ground is tinted. */
const TINT_MS = 300;
/** The tint's strength, in percent, as it fades. */
const STEPS = [14, 11, 8, 5, 2] as const;

export type TintWay = 'up' | 'down';

const tinted = new Map<HTMLElement, { readonly way: TintWay; readonly at: number }>();
const stillMotion = typeof matchMedia === 'undefined' ? { matches: true } : matchMedia('(prefers-reduced-motion: reduce)');

const inkOf = (way: TintWay): string => `var(--${way === 'up' ? 'weed' : 'copper'})`;
const groundOf = (way: TintWay, percent: number): string => `color-mix(in srgb, ${inkOf(way)} ${percent}%, transparent)`;

/**
 * Tints the ground of a changed figure and lets it fade; where motion is reduced a mark of 2 px stands instead, and
 * where a pane wants none, nothing. The fading is painted with the panes: a style animation would lay out and paint
 * the page for every frame of the screen, for as long as anything changes.
 */
export function tintGround(element: HTMLElement, way: TintWay): void {
  if (element.closest('[data-colours="still"]')) return;
  tinted.set(element, { way, at: performance.now() });
  if (stillMotion.matches) element.style.boxShadow = `inset 2px 0 0 ${inkOf(way)}`;
  else element.style.backgroundColor = groundOf(way, STEPS[0]);
  drawSoon(tinted, fade);
}

function fade(): void {
  const now = performance.now();
  for (const [element, { way, at }] of tinted) {
    const step = STEPS[Math.floor(((now - at) / TINT_MS) * STEPS.length)];
    if (step === undefined || !element.isConnected) {
      tinted.delete(element);
      element.style.backgroundColor = '';
      element.style.boxShadow = '';
    } else if (!stillMotion.matches) element.style.backgroundColor = groundOf(way, step);
  }
  if (tinted.size > 0) drawSoon(tinted, fade);
}
