import type { ComponentProps } from 'react';

const LOOK =
  'whitespace-nowrap rounded-[2px] border enabled:hover:bg-raised disabled:border-hair disabled:text-quiet aria-pressed:border-lamp aria-pressed:bg-lamp aria-pressed:text-letters aria-checked:border-lamp aria-checked:bg-lamp aria-checked:text-letters';
const SIZE = { small: 'min-h-[20px] px-2', usual: 'min-h-[24px] px-2', large: 'min-h-[32px] px-2', key: 'min-h-[24px] px-[3px]' } as const;
const EDGE = { buy: 'border-weed', sell: 'border-copper', plain: 'border-line' } as const;

interface Props extends ComponentProps<'button'> {
  readonly tone?: keyof typeof EDGE;
  readonly size?: keyof typeof SIZE;
  readonly broken?: boolean;
}

/** A button; a `key` is one of many in a row. `broken` edges say that a press opens something first instead of doing it at once. */
export function Button({ tone = 'plain', size = 'usual', broken = false, className = '', ...rest }: Props) {
  return <button type="button" className={`${LOOK} ${SIZE[size]} ${EDGE[tone]} ${broken ? 'border-dashed' : ''} ${className}`} {...rest} />;
}
