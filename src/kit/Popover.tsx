import { useContext, useState, type ReactElement } from 'react';
import { InPopover, type PopoverProps } from './float-parts.ts';
import { FLOATING } from './floating-later.ts';
import { usePart } from './later.ts';
import { Trigger } from './Trigger.tsx';

/** A small floating panel that opens from its trigger, a button. */
export function Popover(props: PopoverProps) {
  const [opened, setOpened] = useState(false);
  if (props.open === true && !opened) setOpened(true);
  const floating = usePart(FLOATING, opened);
  if (opened && floating) return <floating.OpenedPopover {...props} />;
  const open = (): void => {
    setOpened(true);
    props.onOpen?.(true);
  };
  return <Trigger of={props.trigger} opens="dialog" on={{ onClick: open }} />;
}

/** A button in a popover that closes it too. */
export function PopoverClose({ children }: { children: ReactElement }) {
  const Close = useContext(InPopover);
  return Close ? <Close asChild>{children}</Close> : children;
}
