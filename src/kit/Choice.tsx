import { Command } from 'cmdk';
import { ChevronDown } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Menu, MENU_ITEM, MenuChoice } from './Menu.tsx';
import { Popover } from './Popover.tsx';

export interface Option<V extends string = string> {
  readonly value: V;
  readonly words: string;
  /** What it is, in one line. */
  readonly about?: string;
  /** The key that picks it, where there is one. */
  readonly key?: string;
}

/** More than these are searched by typing. */
const SEARCHED_FROM = 8;

interface Props<V extends string> {
  readonly label: string;
  readonly value: V | null;
  readonly options: readonly Option<V>[];
  readonly onPick: (value: V) => void;
  /** The button's look, and what it says; by default a field with the words of what is chosen. */
  readonly className?: string;
  readonly children?: ReactNode;
}

/** One of several: a short menu, or a list that is searched by typing where there are many. */
export function Choice<V extends string>(props: Props<V>) {
  const { label, value, options, onPick, className = '' } = props;
  const chosen = options.find((option) => option.value === value)?.words;
  const trigger = (
    <button
      type="button"
      className={props.children === undefined ? `field flex items-center justify-between gap-1 whitespace-nowrap text-left ${className}` : className}
      // A name holds what can be read on the button.
      aria-label={[chosen === undefined ? label : `${label}: ${chosen}`, ...(typeof props.children === 'string' ? [props.children] : [])].join(', ')}
    >
      {props.children ?? (
        <>
          <span className="truncate">{chosen ?? 'choose …'}</span>
          <ChevronDown size={11} className="shrink-0" aria-hidden="true" />
        </>
      )}
    </button>
  );
  if (options.length >= SEARCHED_FROM) return <Searched {...props} trigger={trigger} />;
  return (
    <Menu trigger={trigger}>
      <MenuChoice label={label} value={value ?? ('' as V)} options={options} onPick={onPick} />
    </Menu>
  );
}

function Searched<V extends string>({ label, value, options, onPick, trigger }: Props<V> & { trigger: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover label={label} trigger={trigger} open={open} onOpen={setOpen} className="w-[320px] p-1">
      <Command label={label} loop {...(value === null ? {} : { defaultValue: value })}>
        <Command.Input autoFocus className="field mb-1 w-full" placeholder="type to search" aria-label={`Search: ${label}`} />
        <Command.List className="scroll max-h-[320px]">
          <Command.Empty className="px-2 text-quiet">Nothing by that name.</Command.Empty>
          {options.map((option) => (
            <Command.Item
              key={option.value}
              value={option.value}
              keywords={[option.words, option.about ?? '']}
              className={MENU_ITEM}
              onSelect={() => {
                setOpen(false);
                onPick(option.value);
              }}
            >
              <span className="whitespace-nowrap">
                {option.words}
                {option.value === value && <span aria-hidden="true"> •</span>}
              </span>
              {option.about !== undefined && <span className="ml-auto truncate text-quiet">{option.about}</span>}
              {option.key !== undefined && <kbd className="shrink-0 text-quiet">{option.key}</kbd>}
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Popover>
  );
}
