import { Plus } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import type { ReactNode } from 'react';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { openPane } from './layout.ts';
import { PANE_KINDS } from './panes.ts';

/** The one list from which panes are added. */
export function AddPane({ children }: { children?: ReactNode }) {
  return (
    <DropdownMenu.Root modal={false} onOpenChange={(open) => !open && notePopoverClosed()}>
      <DropdownMenu.Trigger className={children ? 'control' : 'control w-7 shrink-0 !px-0'} aria-label="Add a pane">
        {children ?? <Plus size={14} className="mx-auto" />}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="floats p-1" sideOffset={4}>
          {PANE_KINDS.map((kind) => (
            <DropdownMenu.Item key={kind} className="menu-item" onSelect={() => openPane(kind)}>
              {kind}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
