import { useState } from 'react';
import { TakeAway } from '../../../kit/TakeAway.tsx';
import { grouped, resultClass, signed } from '../../../kit/Figure.tsx';
import { Table, figured, worded } from '../../../kit/Table.tsx';
import { clockText } from '../../../kit/clock.ts';
import { withQuery, zoneOf, type AnswerOf } from '../../../live/index.ts';
import { useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

type Note = AnswerOf<'GET /api/contract-notes/{account}'>['items'][number];

/** What was done of each order on a day: a line each, which opens to the fills and what they come to. */
export function ContractNotes({ account, today }: { account: string; today: string }) {
  const [day, setDay] = useState(today);
  const [opened, setOpened] = useState<string | null>(null);
  const query = { from: day, to: day };
  const { data } = useAsked('GET /api/contract-notes/{account}', { path: { account }, query }, { when: day !== '' });
  return (
    <Section title="Contract notes" about="One for each order and day on which something of it was done.">
      <p className="mb-2 flex items-center gap-3">
        <label>
          of <input type="date" className="field" aria-label="Day of the notes" value={day} max={today} onChange={(event) => setDay(event.target.value)} />
        </label>
        <TakeAway address={withQuery(`/api/contract-notes/${account}`, { ...query, format: 'csv' })} file={`contract-notes-${account}.csv`} prints />
      </p>
      {data?.items.length === 0 && <p className="text-quiet">Nothing was done on {day}.</p>}
      <ul aria-label="Contract notes">
        {data?.items.map((note) => (
          <li key={note.number} className="border-b border-hair py-1">
            <button
              type="button"
              className="flex w-full gap-3 text-left"
              aria-expanded={opened === note.number}
              onClick={() => setOpened(opened === note.number ? null : note.number)}
            >
              <span className="w-[150px] shrink-0 text-quiet">{note.number}</span>
              <span className="min-w-0 flex-1 truncate">
                {note.side === 'buy' ? 'bought' : 'sold'} {grouped(note.quantity)} {note.instrument} at {note.averagePrice ?? '–'} on average
              </span>
              <span className={`figure ${resultClass(note.amount)}`}>
                {signed(note.amount)} {note.currency}
              </span>
            </button>
            {opened === note.number && <Detail note={note} />}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Detail({ note }: { note: Note }) {
  const sums: readonly (readonly [string, string])[] = [
    ['value', grouped(note.value)],
    ['fees', grouped(note.fees)],
    [note.amount.startsWith('-') ? 'paid' : 'received', grouped(note.amount.replace('-', ''))],
  ];
  const columns = [
    worded<Note['fills'][number]>('time', ({ time }) => clockText(zoneOf(note.instrument), time)),
    figured<Note['fills'][number]>('quantity', ({ quantity }) => quantity),
    figured<Note['fills'][number]>(
      'price',
      ({ price }) => price,
      (price) => price,
    ),
    figured<Note['fills'][number]>(
      'fee',
      ({ fee }) => fee,
      (fee) => fee,
    ),
  ];
  return (
    <div className="py-2 pl-[162px]">
      <p className="text-quiet">
        {note.name}, order {note.orderId}, account {note.account}
        {note.settlesOn === null ? '' : `; settles on ${note.settlesOn}`}
      </p>
      <Table name={`Fills of ${note.number}`} plain rows={note.fills} columns={columns} keyOf={({ id }) => id} className="my-1" />
      <p className="flex justify-end gap-4">
        {sums.map(([words, text]) => (
          <span key={words}>
            {words} <b className="figure">{text}</b> {note.currency}
          </span>
        ))}
      </p>
    </div>
  );
}
