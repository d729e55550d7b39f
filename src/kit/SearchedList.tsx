import { Command } from 'cmdk';
import type { Option } from './float-parts.ts';
import { MENU_ITEM } from './Menu.tsx';

interface Props<V extends string> {
  readonly label: string;
  readonly value: V | null;
  readonly options: readonly Option<V>[];
  readonly onPick: (value: V) => void;
}

/** Choices in a popover, searched by typing. */
export function SearchedList<V extends string>({ label, value, options, onPick }: Props<V>) {
  return (
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
            onSelect={() => onPick(option.value)}
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
  );
}
