import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { ALERT_SOUNDS, playAlert, type AlertSound } from '../../../client/sounds.ts';
import { $settings } from '../../../client/settings.ts';
import { ALERT_KINDS, DIRECTIONS, FIRES, type AlertKind, type Direction, type Fires } from '../../../core/scan/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Field } from '../../../kit/Field.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { problemWords, request, $session } from '../../../live/index.ts';
import { PhraseField } from '../../act/PhraseField.tsx';
import { useAsked } from '../../act/queries.tsx';
import { readCondition } from '../../act/phrase.ts';
import type { Target } from '../../workspace/panes.ts';

const KIND_WORDS: Readonly<Record<AlertKind, string>> = {
  price: 'a price is reached',
  condition: 'a condition turns true',
  scan: 'a scan finds something new',
  order: 'something becomes of an order',
  risk: 'a rule blocks',
  news: 'a headline has words',
};
const DIRECTION_WORDS: Readonly<Record<Direction, string>> = { up: 'from below', down: 'from above', either: 'from either side' };
const FIRES_WORDS: Readonly<Record<Fires, string>> = { once: 'once', 'once-a-bar': 'once a bar', every: 'every time' };
const ORDER_EVENTS = ['filled', 'rejected', 'canceled', 'plan-fired'] as const;

/** Makes an alert of any kind; what can't be is said at its field. */
export function NewAlert({ pane, target }: { pane: string; target: Target | null }) {
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState<AlertKind>('price');
  const [price, setPrice] = useState('');
  const [direction, setDirection] = useState<Direction>('either');
  const [phrase, setPhrase] = useState('');
  const [scan, setScan] = useState('');
  const [words, setWords] = useState('');
  const [event, setEvent] = useState<(typeof ORDER_EVENTS)[number]>('filled');
  const [account, setAccount] = useState('');
  const [anyInstrument, setAny] = useState(false);
  const [fires, setFires] = useState<Fires>('once');
  const [sound, setSound] = useState<AlertSound>('bell');
  const [note, setNote] = useState('');
  const accounts = useStore($session)?.accounts ?? [];
  const { volume } = useStore($settings);
  const needsInstrument = kind === 'price' || kind === 'condition';
  const instrument = kind !== 'scan' && (needsInstrument || !anyInstrument) ? (target?.instrument ?? null) : null;
  const scans = useAsked('GET /api/scans', {}, { when: open && kind === 'scan', freshMs: 5000 });
  const listed = words.split(',').map((word) => word.trim()).filter(Boolean); // prettier-ignore
  const ready =
    (kind === 'price' && /^\d+(\.\d+)?$/.test(price) && instrument !== null) ||
    (kind === 'condition' && readCondition(phrase).ok && instrument !== null) ||
    (kind === 'news' && listed.length > 0) ||
    (kind === 'scan' && scan !== '') ||
    kind === 'order' ||
    kind === 'risk';
  const make = async (): Promise<void> => {
    const of: Readonly<Record<AlertKind, object>> = {
      price: { price, direction },
      condition: { phrase },
      scan: { scan },
      news: { words: listed },
      order: { event, account: account === '' ? null : account },
      risk: { event: 'blocked', account: account === '' ? null : account },
    };
    const body = { kind, instrument, ...of[kind], fires, sound, note: note.trim() === '' ? null : note.trim() };
    const done = await request('POST /api/alerts', { body });
    if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
    setOpen(false);
    // So that it can be told over other windows: asked where something is to be told.
    if ('Notification' in window && Notification.permission === 'default') void Notification.requestPermission();
  };
  return (
    <Popover label="A new alert" open={open} onOpen={setOpen} trigger={<Button size="small">new alert</Button>}>
      <form
        className="grid w-[360px] gap-1"
        onSubmit={(submitted) => {
          submitted.preventDefault();
          if (ready) void make();
        }}
      >
        <Field label="tell me when">
          <Choice
            label="Kind"
            className="w-[220px]"
            value={kind}
            options={ALERT_KINDS.map((value) => ({ value, words: KIND_WORDS[value] }))}
            onPick={setKind}
          />
        </Field>
        {kind === 'scan' && (
          <Field label="scan">
            <Choice
              label="Scan"
              className="w-[220px]"
              value={scan}
              options={[
                { value: '', words: 'choose one' },
                ...(scans.data?.items ?? []).flatMap(({ name, keep, schedule }) => (keep || schedule ? [{ value: name, words: name }] : [])),
              ]}
              onPick={setScan}
            />
          </Field>
        )}
        {kind !== 'scan' && (
          <Field label="instrument">
            <span className="flex items-center gap-2">
              {!needsInstrument && (
                <label className="flex items-center gap-1">
                  <input type="checkbox" className="accent-lamp" checked={anyInstrument} onChange={(changed) => setAny(changed.target.checked)} />
                  any
                </label>
              )}
              <span className={instrument === null ? 'text-quiet' : 'ticker'}>{instrument ?? (needsInstrument ? 'choose one in this pane' : 'any')}</span>
            </span>
          </Field>
        )}
        {kind === 'price' && (
          <Field label="price">
            <span className="flex gap-1">
              <input
                className="field figure w-[90px]"
                aria-label="Price"
                inputMode="decimal"
                value={price}
                onChange={(changed) => setPrice(changed.target.value)}
              />
              <Choice
                label="From"
                className="w-[130px]"
                value={direction}
                options={DIRECTIONS.map((value) => ({ value, words: DIRECTION_WORDS[value] }))}
                onPick={setDirection}
              />
            </span>
          </Field>
        )}
        {kind === 'condition' && <PhraseField label="Condition" value={phrase} onChange={setPhrase} placeholder="such as: rsi(14) on 5m crosses 30" />}
        {kind === 'news' && (
          <Field label="words, by commas">
            <input className="field w-[220px]" aria-label="Words" value={words} onChange={(changed) => setWords(changed.target.value)} />
          </Field>
        )}
        {kind === 'order' && (
          <Field label="an order is">
            <Choice
              label="Event"
              className="w-[130px]"
              value={event}
              options={ORDER_EVENTS.map((value) => ({ value, words: value.replace('-', ' ') }))}
              onPick={setEvent}
            />
          </Field>
        )}
        {(kind === 'order' || kind === 'risk') && (
          <Field label="account">
            <Choice
              label="Account"
              className="w-[130px]"
              value={account}
              options={[{ value: '', words: 'any' }, ...accounts.map((value) => ({ value, words: value }))]}
              onPick={setAccount}
            />
          </Field>
        )}
        <Field label="fires">
          <Choice label="Fires" className="w-[130px]" value={fires} options={FIRES.map((value) => ({ value, words: FIRES_WORDS[value] }))} onPick={setFires} />
        </Field>
        <Field label="sound">
          <span className="flex gap-1">
            <Choice label="Sound" className="w-[100px]" value={sound} options={ALERT_SOUNDS.map((value) => ({ value, words: value }))} onPick={setSound} />
            <Button size="small" onClick={() => playAlert(sound, volume)}>
              hear
            </Button>
          </span>
        </Field>
        <Field label="note">
          <input className="field w-[220px]" aria-label="Note" value={note} maxLength={200} onChange={(changed) => setNote(changed.target.value)} />
        </Field>
        <Button type="submit" disabled={!ready}>
          make the alert
        </Button>
      </form>
    </Popover>
  );
}
