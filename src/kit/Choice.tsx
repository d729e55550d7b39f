import { ChevronDown } from 'lucide-react';
import { useState, type ReactElement, type ReactNode } from 'react';
import type { Option } from './float-parts.ts';
import { later, usePart } from './later.ts';
import { Menu, MenuChoice } from './Menu.tsx';
import { Popover } from './Popover.tsx';

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

const LIST = later(() => import('./SearchedList.tsx'));

function Searched<V extends string>({ label, value, options, onPick, trigger }: Props<V> & { trigger: ReactElement }) {
  const [open, setOpen] = useState(false);
  const list = usePart(LIST, open);
  return (
    <Popover label={label} trigger={trigger} open={open} onOpen={setOpen} className="w-[320px] p-1">
      {list && (
        <list.SearchedList
          {...{ label, value, options }}
          onPick={(picked) => {
            setOpen(false);
            onPick(picked);
          }}
        />
      )}
    </Popover>
  );
}
