import { cloneElement, type DOMAttributes, type ReactElement } from 'react';

type Handlers = Pick<DOMAttributes<HTMLElement>, 'onClick' | 'onPointerDown' | 'onKeyDown' | 'onContextMenu'>;

/** A button as it stands before what it opens was opened for the first time. */
export function Trigger({ of, opens, on }: { of: ReactElement; opens: 'menu' | 'dialog' | null; on: Handlers }) {
  const own = of.props as Handlers;
  const both = Object.fromEntries(
    Object.entries(on).map(([name, ours]) => [
      name,
      (event: never) => {
        (own[name as keyof Handlers] as ((event: never) => void) | undefined)?.(event);
        if (!(event as Event).defaultPrevented) (ours as (event: never) => void)(event);
      },
    ]),
  );
  return cloneElement(of, { ...both, ...(opens === null ? {} : { 'aria-haspopup': opens, 'aria-expanded': false }) } as object);
}
