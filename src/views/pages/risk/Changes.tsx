import { RULE_WORDS, type RulesText } from '../../../core/risk/index.ts';
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

/** Every change of the rules, with its old and its new value. */
export function Changes({ account }: { account: string }) {
  const { data } = useAsked('GET /api/risk/{account}/changes', { path: { account }, query: { limit: 200 } });
  const items = [...(data?.items ?? [])].reverse();
  return (
    <Section title="Changes" about="The record can’t be edited: each line carries the hash of those before it.">
      {items.length === 0 && <p className="text-quiet">The rules were never changed.</p>}
      <table className="list w-full">
        <tbody>
          {items.map((change) => (
            <tr key={change.seq}>
              <td className="figure text-left">{marketTime(change.time)}</td>
              <td>{change.by}</td>
              <td>{change.kind}</td>
              <td>{RULE_WORDS[change.rule]}</td>
              <td className="figure text-left">
                {valueText(change.old)} → {valueText(change.new)}
              </td>
              <td className="figure text-quiet" title={change.hash}>
                {change.hash.slice(0, 8)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}
