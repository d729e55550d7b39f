import { cloneElement, type DOMAttributes, type ReactElement, type SyntheticEvent } from 'react';

type Handlers = Pick<DOMAttributes<HTMLElement>, 'onClick' | 'onPointerDown' | 'onKeyDown' | 'onContextMenu'>;
type Handler = (event: SyntheticEvent) => void;

/** A button as it stands before what it opens was opened for the first time: its own handlers come first. */
export function Trigger({ of, opens, on }: { of: ReactElement; opens: 'menu' | 'dialog' | null; on: Handlers }) {
  const own = of.props as Readonly<Record<string, Handler | undefined>>;
  const both = Object.entries(on as Readonly<Record<string, Handler>>).map(([name, ours]): [string, Handler] => [
    name,
    (event) => {
      own[name]?.(event);
      if (!event.defaultPrevented) ours(event);
    },
  ]);
  return cloneElement(of as ReactElement<object>, {
    ...Object.fromEntries(both),
    ...(opens === null ? {} : { 'aria-haspopup': opens, 'aria-expanded': false }),
  });
}
