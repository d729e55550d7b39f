import { Dialog as Radix } from 'radix-ui';
import type { ReactNode } from 'react';
import { FLOAT_APART, floatClosed } from './floats.ts';

/** A question or a text over the middle of the window. */
export function Dialog({ title, onClose, children, className = 'w-[420px]' }: { title: string; onClose: () => void; children: ReactNode; className?: string }) {
  return (
    <Radix.Root
      open
      modal={false}
      onOpenChange={(open) => {
        if (open) return;
        floatClosed();
        onClose();
      }}
    >
      <Radix.Portal>
        <Radix.Content
          className={`${FLOAT_APART} scroll fixed left-1/2 top-1/2 max-h-[80vh] -translate-x-1/2 -translate-y-1/2 p-4 ${className}`}
          aria-describedby={undefined}
        >
          <Radix.Title className="mb-2 text-[16px] font-semibold">{title}</Radix.Title>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
