import type { Spent } from './guard.ts';

/** The press in progress, from its way down to just after its way up. */
let press: { spent: Spent | null } | null = null;
/** When the window last got the focus by something other than a press; a press that brings it comes right after. */
let wokenAt = -Infinity;
let asleep = false;

/** The focus comes before the press that brings it, by less than this. */
const WAKING_MS = 80;

/** Watches which presses wake the window: they order nothing, however long they are held. Call once. */
export function watchPresses(): void {
  asleep = !document.hasFocus();
  window.addEventListener('blur', () => (asleep = true));
  window.addEventListener('focus', () => {
    if (asleep) wokenAt = performance.now();
    asleep = false;
  });
  const down = (): void => {
    const wakes = asleep || performance.now() - wokenAt < WAKING_MS;
    asleep = false;
    press = { spent: wakes ? 'woke the window' : null };
  };
  const up = (): void => {
    const over = press;
    setTimeout(() => press === over && (press = null), 0);
  };
  window.addEventListener('pointerdown', down, true);
  window.addEventListener('pointerup', up, true);
  window.addEventListener('pointercancel', up, true);
}

/** A popover closed: if a press did it, that press was for this. */
export const notePopoverClosed = (): void => {
  if (press && press.spent === null) press.spent = 'closed a popover';
};

/** What the press in progress did besides. */
export const spentOn = (): Spent | null => press?.spent ?? null;
