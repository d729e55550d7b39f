import { RULE_WORDS, type RulesText } from '../../../core/risk/index.ts';
import type { GridColumn } from '../../../kit/Grid.tsx';
import { Table, worded } from '../../../kit/Table.tsx';
import type { AnswerOf } from '../../../live/index.ts';
import { marketTime } from '../../act/market-time.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

type Window = NonNullable<RulesText['noTradeWindows']>[number];

/** A rule's value in words: a figure, what it does, hours of the day, quantities by kind. */
function valueText(value: unknown): string {
  if (value === null) return 'none';
  if (Array.isArray(value)) return (value as Window[]).map(({ from, to, days }) => `${from}–${to}${days ? ` ${days.join(' ')}` : ''}`).join(', ');
  if (typeof value === 'object') return Object.entries(value as Record<string, unknown>).map(([kind, cap]) => `${kind} ${String(cap)}`).join(', '); // prettier-ignore
  return typeof value === 'number' ? String(value) : (value as string);
}

type Change = AnswerOf<'GET /api/risk/{account}/changes'>['items'][number];

const COLUMNS: readonly GridColumn<Change>[] = [
  worded('time', ({ time }) => time, { cell: ({ time }) => <span className="figure">{marketTime(time)}</span> }),
  worded('by', ({ by }) => by),
  worded('what', ({ kind }) => kind),
  worded('rule', ({ rule }) => RULE_WORDS[rule]),
  worded('from and to', (change) => `${valueText(change.old)} → ${valueText(change.new)}`, { cellProps: () => ({ className: 'whitespace-normal' }) }),
  worded('hash', ({ hash }) => hash, {
    cell: ({ hash }) => hash.slice(0, 8),
    cellProps: ({ hash }) => ({ className: 'figure left text-quiet', title: hash }),
  }),
];

/** Every change of the rules, with its old and its new value. */
export function Changes({ account }: { account: string }) {
  const { data } = useAsked('GET /api/risk/{account}/changes', { path: { account }, query: { limit: 200 } });
  const items = [...(data?.items ?? [])].reverse();
  return (
    <Section title="Changes" about="The record can’t be edited: each line carries the hash of those before it.">
      <Table
        name="Changes of the rules"
        rows={items}
        columns={COLUMNS}
        keyOf={({ seq }) => String(seq)}
        empty="The rules were never changed."
        className="max-h-[360px]"
      />
    </Section>
  );
}
