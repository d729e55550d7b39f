import type { DialogProps } from './float-parts.ts';
import { FLOATING } from './floating-later.ts';
import { usePart } from './later.ts';

/** A question or a text over the middle of the window. */
export function Dialog(props: DialogProps) {
  const floating = usePart(FLOATING, true);
  return floating && <floating.OpenedDialog {...props} />;
}
