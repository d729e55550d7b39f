import { Popover as Radix } from 'radix-ui';
import type { ReactNode } from 'react';

/** A small floating panel that opens from its trigger. Closing it by a press elsewhere calls `onClosedByPress`. */
export function Popover(props: { trigger: ReactNode; label: string; children: ReactNode; onClosedByPress?: () => void; align?: 'start' | 'end' }) {
  return (
    <Radix.Root>
      <Radix.Trigger asChild>{props.trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          className="floats p-2"
          aria-label={props.label}
          align={props.align ?? 'start'}
          sideOffset={4}
          collisionPadding={8}
          onPointerDownOutside={() => props.onClosedByPress?.()}
        >
          {props.children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}

export const PopoverClose = Radix.Close;
