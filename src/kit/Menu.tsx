import { useContext, useState, type ReactNode } from 'react';
import { FLOATING } from './floating-later.ts';
import { InMenu, type MenuParts, type MenuProps } from './float-parts.ts';
import { usePart } from './later.ts';
import { Trigger } from './Trigger.tsx';

/** A line of a menu, of a searched choice or of the command bar. */
export const MENU_ITEM =
  'flex w-full min-h-[24px] items-center gap-3 rounded-[2px] px-2 text-left outline-none data-[highlighted]:bg-lamp data-[highlighted]:text-letters aria-selected:bg-lamp aria-selected:text-letters focus-visible:bg-lamp focus-visible:text-letters [&[data-highlighted]_*]:text-letters [&[aria-selected=true]_*]:text-letters data-[disabled]:text-quiet';

function useParts(): MenuParts {
  const parts = useContext(InMenu);
  if (!parts) throw new Error('a line of a menu stands in a menu');
  return parts;
}

const OPENING_KEYS: readonly string[] = ['Enter', ' ', 'ArrowDown'];

/** A menu that opens from its trigger, a button. */
export function Menu(props: MenuProps) {
  const [by, setBy] = useState<'key' | 'press' | null>(null);
  const floating = usePart(FLOATING, by !== null);
  if (by !== null && floating) return <floating.OpenedMenu {...props} byKey={by === 'key'} />;
  return (
    <Trigger
      of={props.trigger}
      opens="menu"
      on={{
        onPointerDown: (event) => {
          if (event.button !== 0 || event.ctrlKey) return;
          // The caret goes to the menu.
          event.preventDefault();
          setBy('press');
        },
        onKeyDown: (event) => {
          if (!OPENING_KEYS.includes(event.key)) return;
          event.preventDefault();
          setBy('key');
        },
      }}
    />
  );
}

/** A menu that a right click on its trigger opens. */
export function RightMenu({ trigger, children }: Pick<MenuProps, 'trigger' | 'children'>) {
  const [at, setAt] = useState<MouseEventInit | null>(null);
  const floating = usePart(FLOATING, at !== null);
  if (at !== null && floating)
    return (
      <floating.OpenedRightMenu trigger={trigger} at={at}>
        {children}
      </floating.OpenedRightMenu>
    );
  return (
    <Trigger
      of={trigger}
      opens={null}
      on={{
        onContextMenu: (event) => {
          event.preventDefault();
          setAt({ clientX: event.clientX, clientY: event.clientY });
        },
      }}
    />
  );
}

/** `about` says in one line what it is. */
export function MenuItem(props: { onPick: () => void; children: ReactNode; about?: string; disabled?: boolean; className?: string }) {
  const { Item } = useParts();
  return (
    <Item className={`${MENU_ITEM} ${props.className ?? ''}`} onSelect={props.onPick} disabled={props.disabled ?? false}>
      {props.children}
      {props.about !== undefined && <span className="ml-auto text-quiet">{props.about}</span>}
    </Item>
  );
}

export function MenuLabel({ children }: { children: ReactNode }) {
  const { Label } = useParts();
  return <Label className="px-2 text-quiet">{children}</Label>;
}

export function MenuLine() {
  const { Separator } = useParts();
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
  const { RadioGroup, RadioItem } = useParts();
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
