import { ContextMenu, DropdownMenu } from 'radix-ui';
import { createContext, useContext, type ReactNode } from 'react';
import { FLOAT_APART, floatClosed } from './floats.ts';

/** A line of a menu, of a searched choice or of the command bar. */
export const MENU_ITEM =
  'flex w-full min-h-[24px] items-center gap-3 rounded-[2px] px-2 text-left outline-none data-[highlighted]:bg-lamp data-[highlighted]:text-letters aria-selected:bg-lamp aria-selected:text-letters focus-visible:bg-lamp focus-visible:text-letters [&[data-highlighted]_*]:text-letters [&[aria-selected=true]_*]:text-letters data-[disabled]:text-quiet';

type Parts = Pick<typeof DropdownMenu, 'Item' | 'Label' | 'Separator' | 'RadioGroup' | 'RadioItem'>;
const InMenu = createContext<Parts>(DropdownMenu);

const hear = (onOpen: ((open: boolean) => void) | undefined) => (open: boolean) => {
  if (!open) floatClosed();
  onOpen?.(open);
};

interface Props {
  readonly trigger: ReactNode;
  readonly children: ReactNode;
  readonly align?: 'start' | 'end';
  readonly className?: string;
  readonly onOpen?: (open: boolean) => void;
}

/** A menu that opens from its trigger, a button. */
export function Menu({ trigger, children, align = 'start', className = '', onOpen }: Props) {
  return (
    <DropdownMenu.Root modal={false} onOpenChange={hear(onOpen)}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={`${FLOAT_APART} p-1 ${className}`} align={align} sideOffset={4} collisionPadding={8}>
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** A menu that a right click on its trigger opens. */
export function RightMenu({ trigger, children }: Pick<Props, 'trigger' | 'children'>) {
  return (
    <ContextMenu.Root modal={false} onOpenChange={hear(undefined)}>
      <ContextMenu.Trigger asChild>{trigger}</ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content className={`${FLOAT_APART} p-1`}>
          <InMenu value={ContextMenu}>{children}</InMenu>
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

/** `about` says in one line what it is. */
export function MenuItem(props: { onPick: () => void; children: ReactNode; about?: string; disabled?: boolean; className?: string }) {
  const { Item } = useContext(InMenu);
  return (
    <Item className={`${MENU_ITEM} ${props.className ?? ''}`} onSelect={props.onPick} disabled={props.disabled ?? false}>
      {props.children}
      {props.about !== undefined && <span className="ml-auto text-quiet">{props.about}</span>}
    </Item>
  );
}

export function MenuLabel({ children }: { children: ReactNode }) {
  const { Label } = useContext(InMenu);
  return <Label className="px-2 text-quiet">{children}</Label>;
}

export function MenuLine() {
  const { Separator } = useContext(InMenu);
  return <Separator className="my-1 h-px bg-hair" />;
}

/** One of several, marked. */
export function MenuChoice<V extends string>(props: {
  readonly label: string;
  readonly value: V;
  readonly options: readonly { readonly value: V; readonly words: string; readonly about?: string; readonly name?: string }[];
  readonly onPick: (value: V) => void;
  readonly className?: string;
}) {
  const { RadioGroup, RadioItem } = useContext(InMenu);
  const { label, value, options, onPick, className = '' } = props;
  return (
    <RadioGroup value={value} onValueChange={(picked) => onPick(picked as V)} aria-label={label}>
      <MenuLabel>{label}</MenuLabel>
      <div className={className}>
        {options.map((option) => (
          <RadioItem key={option.value} value={option.value} className={MENU_ITEM} aria-label={option.name ?? `${label} ${option.words}`}>
            {option.words}
            {option.value === value && <span aria-hidden="true">•</span>}
            {option.about !== undefined && <span className="ml-auto text-quiet">{option.about}</span>}
          </RadioItem>
        ))}
      </div>
    </RadioGroup>
  );
}
