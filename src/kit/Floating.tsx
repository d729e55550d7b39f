import { ContextMenu, DropdownMenu, Dialog as RadixDialog, Popover as RadixPopover } from 'radix-ui';
import { useEffect, useRef } from 'react';
import { FLOAT_APART, floatClosed } from './floats.ts';
import { InMenu, InPopover, type DialogProps, type MenuProps, type PopoverProps } from './float-parts.ts';

/** What floats over the panes, once something floats: the kit's menus, popovers and dialogs fetch it. */

const hear = (onOpen: ((open: boolean) => void) | undefined) => (open: boolean) => {
  if (!open) floatClosed();
  onOpen?.(open);
};

/** Open from the start: its trigger was used. `byKey` puts the caret on its first line. */
export function OpenedMenu({ trigger, children, align = 'start', className = '', onOpen, byKey }: MenuProps & { readonly byKey: boolean }) {
  const content = useRef<HTMLDivElement>(null);
  useEffect(() => {
    onOpen?.(true);
    if (!byKey) return undefined;
    // The package takes its first line only after a key that it heard itself.
    const frame = requestAnimationFrame(() => content.current?.querySelector<HTMLElement>('[role^="menuitem"]:not([data-disabled])')?.focus());
    return () => cancelAnimationFrame(frame);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- at its first opening alone
  }, []);
  return (
    <DropdownMenu.Root modal={false} defaultOpen onOpenChange={hear(onOpen)}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content ref={content} className={`${FLOAT_APART} p-1 ${className}`} align={align} sideOffset={4} collisionPadding={8}>
          <InMenu value={DropdownMenu}>{children}</InMenu>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** Open from the start, where the right press was. */
export function OpenedRightMenu({ trigger, children, at }: Pick<MenuProps, 'trigger' | 'children'> & { readonly at: MouseEventInit }) {
  const element = useRef<HTMLElement>(null);
  useEffect(() => {
    element.current?.dispatchEvent(new MouseEvent('contextmenu', { ...at, bubbles: true, cancelable: true }));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- at its first opening alone
  }, []);
  return (
    <ContextMenu.Root modal={false} onOpenChange={hear(undefined)}>
      <ContextMenu.Trigger asChild ref={element}>
        {trigger}
      </ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={`${FLOAT_APART} p-1`}>
          <InMenu value={ContextMenu}>{children}</InMenu>
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

export function OpenedPopover({ trigger, label, children, align = 'start', open, onOpen, className = 'p-2' }: PopoverProps) {
  return (
    <RadixPopover.Root {...(open === undefined ? { defaultOpen: true } : { open })} {...(onOpen ? { onOpenChange: onOpen } : {})}>
      <RadixPopover.Trigger asChild>{trigger}</RadixPopover.Trigger>
      <RadixPopover.Portal>
        <RadixPopover.Content
          className={`${FLOAT_APART} ${className}`}
          aria-label={label}
          align={align}
          sideOffset={4}
          collisionPadding={8}
          onPointerDownOutside={floatClosed}
        >
          <InPopover value={RadixPopover.Close}>{children}</InPopover>
        </RadixPopover.Content>
      </RadixPopover.Portal>
    </RadixPopover.Root>
  );
}

export function OpenedDialog({ title, onClose, children, className = 'w-[420px]' }: DialogProps) {
  return (
    <RadixDialog.Root
      open
      modal={false}
      onOpenChange={(open) => {
        if (open) return;
        floatClosed();
        onClose();
      }}
    >
      <RadixDialog.Portal>
        <RadixDialog.Content
          className={`${FLOAT_APART} scroll fixed left-1/2 top-1/2 max-h-[80vh] -translate-x-1/2 -translate-y-1/2 p-4 ${className}`}
          aria-describedby={undefined}
        >
          <RadixDialog.Title className="mb-2 text-[16px] font-semibold">{title}</RadixDialog.Title>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
