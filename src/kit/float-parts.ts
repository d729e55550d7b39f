import type { DropdownMenu } from 'radix-ui';
import { createContext, type ComponentType, type ReactElement, type ReactNode } from 'react';

export interface MenuProps {
  readonly trigger: ReactElement;
  readonly children: ReactNode;
  readonly align?: 'start' | 'end';
  readonly className?: string;
  readonly onOpen?: (open: boolean) => void;
}

export interface PopoverProps {
  readonly trigger: ReactElement;
  readonly label: string;
  readonly children: ReactNode;
  readonly align?: 'start' | 'end';
  readonly open?: boolean;
  readonly onOpen?: (open: boolean) => void;
  readonly className?: string;
}

export interface DialogProps {
  readonly title: string;
  readonly onClose: () => void;
  readonly children: ReactNode;
  readonly className?: string;
}

export interface Option<V extends string = string> {
  readonly value: V;
  readonly words: string;
  /** What it is, in one line. */
  readonly about?: string;
  /** The key that picks it, where there is one. */
  readonly key?: string;
}

export type MenuParts = Pick<typeof DropdownMenu, 'Item' | 'Label' | 'Separator' | 'RadioGroup' | 'RadioItem'>;

/** The parts of the menu that is open, in which its lines stand. */
export const InMenu = createContext<MenuParts | null>(null);
/** What closes the popover that is open. */
export const InPopover = createContext<ComponentType<{ asChild: true; children: ReactElement }> | null>(null);
