import type { ReactNode } from 'react';

export type Fact = readonly [words: string, value: ReactNode];

/** What something is, line by line: words at the left, what they are at the right. */
export const Facts = ({ lines, wide = false }: { lines: readonly Fact[]; wide?: boolean }) => (
  <dl>
    {lines.map(([words, value]) => (
      <div key={words} className="flex min-h-[22px] items-center gap-3 border-b border-hair px-[6px]">
        <dt className={wide ? 'w-[150px] shrink-0 font-medium' : 'shrink-0 text-quiet'}>{words}</dt>
        <dd className={wide ? '' : 'ml-auto text-right'}>{value}</dd>
      </div>
    ))}
  </dl>
);
