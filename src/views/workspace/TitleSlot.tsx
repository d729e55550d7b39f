import { useStore } from '@nanostores/react';
import { map } from 'nanostores';
import { useCallback, type ReactNode } from 'react';
import { createPortal } from 'react-dom';

/** The place in each title line that is for the pane's own words. */
const $slots = map<Record<string, HTMLElement | undefined>>({});

/** Where a pane's own words stand in its title line. */
export function TitleSlot({ id }: { id: string }) {
  const ref = useCallback(
    (element: HTMLElement | null) => {
      $slots.setKey(id, element ?? undefined);
    },
    [id],
  );
  return <span ref={ref} data-title-slot className="flex min-w-0 flex-[1000_1_0] items-center overflow-hidden" />;
}

/** Puts something into the title line of a pane. */
export function InTitle({ id, children }: { id: string; children: ReactNode }) {
  const slot = useStore($slots, { keys: [id] })[id];
  return slot ? createPortal(children, slot) : null;
}
