import { GripVertical } from 'lucide-react';
import { createContext, useContext, type HTMLAttributes } from 'react';

/** What makes a handle move the row that it stands in. */
export const HandleOf = createContext<HTMLAttributes<HTMLButtonElement> | null>(null);

/** By which a row is dragged to another place, or walked there by keys. */
export function Handle({ of, className = 'h-[20px]' }: { of: string; className?: string }) {
  return (
    <button
      type="button"
      {...useContext(HandleOf)}
      className={`grid w-[14px] cursor-grab place-items-center text-quiet ${className}`}
      aria-label={`Move ${of}`}
    >
      <GripVertical size={11} aria-hidden="true" />
    </button>
  );
}
