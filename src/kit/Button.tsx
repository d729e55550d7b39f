import type { ComponentProps } from 'react';

const LOOK =
  'min-h-[24px] whitespace-nowrap rounded-[2px] border px-2 enabled:hover:bg-raised disabled:border-hair disabled:text-quiet aria-pressed:border-lamp aria-pressed:bg-lamp aria-pressed:text-letters aria-checked:border-lamp aria-checked:bg-lamp aria-checked:text-letters';
const EDGE = { buy: 'border-weed', sell: 'border-copper', plain: 'border-line' } as const;

/** A button. `broken` edges say that a press opens something first instead of doing it at once. */
export function Button({ tone = 'plain', broken = false, className = '', ...rest }: ComponentProps<'button'> & { tone?: keyof typeof EDGE; broken?: boolean }) {
  return <button type="button" className={`${LOOK} ${EDGE[tone]} ${broken ? 'border-dashed' : ''} ${className}`} {...rest} />;
}
