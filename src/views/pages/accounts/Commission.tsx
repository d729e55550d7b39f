import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { COMMISSION_BASES, type CommissionBasis } from '../../../core/portfolio/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { problemWords, request, type ApiAccount } from '../../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from '../../act/checked.tsx';
import { Section } from '../settings/Section.tsx';

type Line = ApiAccount['commission'][number];
type Kind = Line['kind'];

interface Terms {
  readonly basis: CommissionBasis;
  readonly rate: string;
  readonly minimum: string;
  readonly maximum: string;
  readonly exchangeFee: string;
}

const plain = (basis: CommissionBasis, rate: string, exchangeFee = '0', minimum = '', maximum = ''): Terms => ({ basis, rate, minimum, maximum, exchangeFee });
const UNIT_PRESETS = [
  { name: 'share of value', terms: plain('percent', '0.10', '0', '2.00', '40.00') },
  { name: 'by the unit', terms: plain('per-unit', '0.005', '0', '1.00') },
  { name: 'flat', terms: plain('per-order', '5.00') },
] as const;
const CONTRACT_PRESETS = [
  { name: 'by the contract', terms: plain('per-contract', '1.20', '0.80') },
  { name: 'many contracts', terms: plain('per-contract', '0.60', '0.80') },
  { name: 'flat', terms: plain('per-order', '3.00', '0.80') },
] as const;
const CARB_PRESETS = [
  { name: 'share of value', terms: plain('percent', '0.05') },
  { name: 'low share', terms: plain('percent', '0.02') },
] as const;

/** What schedules usually look like, by kind. */
const presetsOf = (kind: Kind): readonly { readonly name: string; readonly terms: Terms }[] =>
  kind === 'inverse' ? CARB_PRESETS : kind === 'future' || kind === 'option' ? CONTRACT_PRESETS : UNIT_PRESETS;

const BASIS_WORDS: Readonly<Record<CommissionBasis, string>> = {
  'per-order': 'an order',
  'per-unit': 'a unit',
  'per-contract': 'a contract',
  percent: '% of value',
};

const rateWords = ({ basis, rate, currency }: Line): string =>
  basis === 'percent' ? `${rate} % of value` : `${rate} ${currency} ${BASIS_WORDS[basis as CommissionBasis]}`;

const DAY_LENGTH = 10;
const DAY_MS = 86_400_000;

/** What an order costs, a side: rate, then minimum and maximum, then what the exchange takes; and what is agreed for later. */
export function CommissionSchedule({ account, lines, today }: { account: string; lines: readonly Line[]; today: string }) {
  const [kind, setKind] = useState<Kind | null>(null);
  const kinds = [...new Set(lines.map((line) => line.kind))];
  const columns = [
    worded<Line>('kind', (line) => (line.from > today ? `${line.kind} · to come` : line.kind)),
    figured<Line>(
      'rate',
      ({ rate }) => rate,
      (rate) => rate,
      { cell: rateWords },
    ),
    figured<Line>('at least', ({ minimum }) => minimum),
    figured<Line>('at most', ({ maximum }) => maximum),
    figured<Line>('exchange', ({ exchangeFee }) => exchangeFee),
    figured<Line>('in force from', (line) => line.from),
  ];
  return (
    <Section title="Commission" about="A side, from the day it is in force. The minimum is charged with an order's first fill.">
      <Table
        name={`Commission of ${account}`}
        rows={lines}
        columns={columns}
        keyOf={(line) => `${line.kind} ${line.from}`}
        rowProps={(line) => (line.from > today ? { className: 'text-quiet' } : {})}
      />
      <div className="mt-2 flex items-center gap-2">
        <Choice className="field" label="Change the commission of" value={kind} options={kinds.map((one) => ({ value: one, words: one }))} onPick={setKind}>
          {kind === null ? 'agree on another …' : kind}
        </Choice>
      </div>
      {kind !== null && (
        <LineEditor key={kind} account={account} kind={kind} now={lines.find((line) => line.kind === kind)} today={today} onDone={() => setKind(null)} />
      )}
    </Section>
  );
}

interface EditorProps {
  readonly account: string;
  readonly kind: Kind;
  readonly now: Line | undefined;
  readonly today: string;
  readonly onDone: () => void;
}

const FIELDS = [
  ['rate', 'rate'],
  ['minimum', 'at least'],
  ['maximum', 'at most'],
  ['exchangeFee', 'exchange'],
] as const;

interface Values extends Terms {
  readonly from: string;
}

const FIELD_WORDS = { ...Object.fromEntries(FIELDS), from: 'in force from' };

function bodyOf(kind: Kind, { basis, rate, minimum, maximum, exchangeFee, from }: Values): object {
  const orNull = (text: string): string | null => (text.trim() === '' ? null : text.trim());
  return { kind, basis, rate: rate.trim(), minimum: orNull(minimum), maximum: orNull(maximum), exchangeFee: orNull(exchangeFee) ?? '0', from };
}

function LineEditor({ account, kind, now, today, onDone }: EditorProps) {
  const form = useForm<Values>({
    defaultValues: {
      basis: (now?.basis ?? 'percent') as CommissionBasis,
      rate: now?.rate ?? '0',
      minimum: now?.minimum ?? '',
      maximum: now?.maximum ?? '',
      exchangeFee: now?.exchangeFee ?? '0',
      from: new Date(Date.parse(today) + DAY_MS).toISOString().slice(0, DAY_LENGTH),
    },
    resolver: checkedAs('commission', (terms) => bodyOf(kind, terms)),
  });
  const { errors } = form.formState;
  const [said, setSaid] = useState<string | null>(null);
  const contract = kind === 'future' || kind === 'option' || kind === 'inverse';
  const bases = COMMISSION_BASES.filter((basis) => basis !== (contract ? 'per-unit' : 'per-contract'));
  const agree = form.handleSubmit(async (terms) => {
    const body = bodyOf(kind, terms);
    const done = await request('POST /api/accounts/{id}/commission', { path: { id: account }, body });
    setSaid(done.ok ? null : problemWords(done.problem));
    if (!done.ok) return;
    onDone();
  });
  return (
    <form className="mt-2 flex flex-wrap items-end gap-2" aria-label={`Commission on ${kind}s`} onSubmit={(event) => void agree(event)}>
      <Choice
        className="field"
        label="Begin from"
        value={null}
        options={presetsOf(kind).map(({ name, terms: { basis, rate } }) => ({ value: name, words: name, about: `${rate} ${BASIS_WORDS[basis]}` }))}
        onPick={(name) => form.reset({ ...form.getValues(), ...presetsOf(kind).find((one) => one.name === name)?.terms })}
      >
        begin from a usual one
      </Choice>
      <Choice
        label="Charged by"
        value={form.watch('basis')}
        options={bases.map((basis) => ({ value: basis, words: BASIS_WORDS[basis] }))}
        onPick={(basis) => form.setValue('basis', basis)}
      />
      {FIELDS.map(([name, label]) => (
        <label key={name} className="flex flex-col text-quiet">
          {label}
          <input
            className="field figure w-[80px]"
            inputMode="decimal"
            placeholder={name === 'minimum' || name === 'maximum' ? 'none' : '0'}
            aria-invalid={name in errors}
            {...form.register(name)}
          />
        </label>
      ))}
      <label className="flex flex-col text-quiet">
        in force from
        <input type="date" className="field figure" {...form.register('from')} />
      </label>
      <Button type="submit">agree on it</Button>
      <Button onClick={onDone}>leave it</Button>
      <Wrong>{wrongIn(errors, FIELD_WORDS) ?? said}</Wrong>
    </form>
  );
}
