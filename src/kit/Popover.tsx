import { Popover as Radix } from 'radix-ui';
import type { ReactNode } from 'react';
import { FLOAT_APART, floatClosed } from './floats.ts';

/** A small floating panel that opens from its trigger, a button. */
export function Popover(props: {
  readonly trigger: ReactNode;
  readonly label: string;
  readonly children: ReactNode;
  readonly align?: 'start' | 'end';
  readonly open?: boolean;
  readonly onOpen?: (open: boolean) => void;
  readonly className?: string;
}) {
  const { trigger, label, children, align = 'start', open, onOpen, className = 'p-2' } = props;
  return (
    <Radix.Root {...(open === undefined ? {} : { open })} {...(onOpen ? { onOpenChange: onOpen } : {})}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          className={`${FLOAT_APART} ${className}`}
          aria-label={label}
          align={align}
          sideOffset={4}
          collisionPadding={8}
          onPointerDownOutside={floatClosed}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

export const PopoverClose = Radix.Close;
