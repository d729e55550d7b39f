import type { ReactNode } from 'react';

export const BAR_FIELD = 'field w-full h-[26px]';
export const BAR_PLACEHOLDER = 'find an instrument, open a pane';

/** At the bar's right: the key that brings the caret here, or what was read. */
export const BarWord = ({ children }: { children: ReactNode }) => <kbd className="pointer-events-none absolute right-2 top-[4px] text-quiet">{children}</kbd>;
