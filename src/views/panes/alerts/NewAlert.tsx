import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { answer } from '../../../client/answers.ts';
import { ALERT_SOUNDS, playAlert, type AlertSound } from '../../../client/sounds.ts';
import { $settings } from '../../../client/settings.ts';
import { ALERT_KINDS, DIRECTIONS, FIRES, type AlertKind, type Direction, type Fires } from '../../../core/scan/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Field } from '../../../kit/Field.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { problemWords, request, $session } from '../../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from '../../act/checked.tsx';
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

interface Values {
  kind: AlertKind;
  price: string;
  direction: Direction;
  phrase: string;
  scan: string;
  /** By commas. */
  words: string;
  event: (typeof ORDER_EVENTS)[number];
  /** Empty for any. */
  account: string;
  anyInstrument: boolean;
  fires: Fires;
  sound: AlertSound;
  note: string;
}

const FIRST: Values = {
  kind: 'price',
  price: '',
  direction: 'either',
  phrase: '',
  scan: '',
  words: '',
  event: 'filled',
  account: '',
  anyInstrument: false,
  fires: 'once',
  sound: 'bell',
  note: '',
};

const needsInstrument = ({ kind }: Values): boolean => kind === 'price' || kind === 'condition';
const instrumentFor = (values: Values, target: Target | null): string | null =>
  values.kind !== 'scan' && (needsInstrument(values) || !values.anyInstrument) ? (target?.instrument ?? null) : null;
const listed = (words: string): string[] => words.split(',').map((word) => word.trim()).filter(Boolean); // prettier-ignore

function bodyOf(values: Values, target: Target | null): object {
  const { kind, price, direction, phrase, scan, words, event, account, fires, sound, note } = values;
  const of: Readonly<Record<AlertKind, object>> = {
    price: { price: price.trim(), direction },
    condition: { phrase },
    scan: { scan },
    news: { words: listed(words) },
    order: { event, account: account === '' ? null : account },
    risk: { event: 'blocked', account: account === '' ? null : account },
  };
  return { kind, instrument: instrumentFor(values, target), ...of[kind], fires, sound, note: note.trim() === '' ? null : note.trim() };
}

/** Whether there is enough to make it of; what of it is wrong is said at its field. */
function isReady(values: Values, target: Target | null): boolean {
  if (needsInstrument(values) && !target) return false;
  switch (values.kind) {
    case 'price':
      return values.price.trim() !== '';
    case 'condition':
      return readCondition(values.phrase).ok;
    case 'news':
      return listed(values.words).length > 0;
    case 'scan':
      return values.scan !== '';
    case 'order':
    case 'risk':
      return true;
  }
}

/** Makes an alert of any kind; what can't be is said at its field. */
export function NewAlert({ pane, target }: { pane: string; target: Target | null }) {
  const [open, setOpen] = useState(false);
  const form = useForm<Values>({ defaultValues: FIRST, resolver: checkedAs('alert', (typed) => bodyOf(typed, target)) });
  const values = form.watch();
  const { kind, phrase, sound } = values;
  const set = <F extends keyof Values>(field: F) => (value: Values[F]): void => form.setValue(field, value as never); // prettier-ignore
  const accounts = useStore($session)?.accounts ?? [];
  const { volume } = useStore($settings);
  const instrument = instrumentFor(values, target);
  const scans = useAsked('GET /api/scans', {}, { when: open && kind === 'scan', freshMs: 5000 });
  const ready = isReady(values, target);
  const make = form.handleSubmit(async (typed) => {
    const done = await request('POST /api/alerts', { body: bodyOf(typed, target) });
    if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
    setOpen(false);
    // So that it can be told over other windows: asked where something is to be told.
    if ('Notification' in window && Notification.permission === 'default') void Notification.requestPermission();
  });
  return (
    <Popover label="A new alert" open={open} onOpen={setOpen} trigger={<Button size="small">new alert</Button>}>
      <form
        className="grid w-[360px] gap-1"
        onSubmit={(submitted) => {
          if (ready) void make(submitted);
          else submitted.preventDefault();
        }}
      >
        <Field label="tell me when">
          <Choice
            label="Kind"
            className="w-[220px]"
            value={kind}
            options={ALERT_KINDS.map((value) => ({ value, words: KIND_WORDS[value] }))}
            onPick={set('kind')}
          />
        </Field>
        {kind === 'scan' && (
          <Field label="scan">
            <Choice
              label="Scan"
              className="w-[220px]"
              value={values.scan}
              options={[
                { value: '', words: 'choose one' },
                ...(scans.data?.items ?? []).flatMap(({ name, keep, schedule }) => (keep || schedule ? [{ value: name, words: name }] : [])),
              ]}
              onPick={set('scan')}
            />
          </Field>
        )}
        {kind !== 'scan' && (
          <Field label="instrument">
            <span className="flex items-center gap-2">
              {!needsInstrument(values) && (
                <label className="flex items-center gap-1">
                  <input type="checkbox" className="accent-lamp" {...form.register('anyInstrument')} />
                  any
                </label>
              )}
              <span className={instrument === null ? 'text-quiet' : 'ticker'}>
                {instrument ?? (needsInstrument(values) ? 'choose one in this pane' : 'any')}
              </span>
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
                aria-invalid={'price' in form.formState.errors}
                {...form.register('price')}
              />
              <Choice
                label="From"
                className="w-[130px]"
                value={values.direction}
                options={DIRECTIONS.map((value) => ({ value, words: DIRECTION_WORDS[value] }))}
                onPick={set('direction')}
              />
            </span>
          </Field>
        )}
        {kind === 'condition' && <PhraseField label="Condition" value={phrase} onChange={set('phrase')} placeholder="such as: rsi(14) on 5m crosses 30" />}
        {kind === 'news' && (
          <Field label="words, by commas">
            <input className="field w-[220px]" aria-label="Words" {...form.register('words')} />
          </Field>
        )}
        {kind === 'order' && (
          <Field label="an order is">
            <Choice
              label="Event"
              className="w-[130px]"
              value={values.event}
              options={ORDER_EVENTS.map((value) => ({ value, words: value.replace('-', ' ') }))}
              onPick={set('event')}
            />
          </Field>
        )}
        {(kind === 'order' || kind === 'risk') && (
          <Field label="account">
            <Choice
              label="Account"
              className="w-[130px]"
              value={values.account}
              options={[{ value: '', words: 'any' }, ...accounts.map((value) => ({ value, words: value }))]}
              onPick={set('account')}
            />
          </Field>
        )}
        <Field label="fires">
          <Choice
            label="Fires"
            className="w-[130px]"
            value={values.fires}
            options={FIRES.map((value) => ({ value, words: FIRES_WORDS[value] }))}
            onPick={set('fires')}
          />
        </Field>
        <Field label="sound">
          <span className="flex gap-1">
            <Choice label="Sound" className="w-[100px]" value={sound} options={ALERT_SOUNDS.map((value) => ({ value, words: value }))} onPick={set('sound')} />
            <Button size="small" onClick={() => playAlert(sound, volume)}>
              hear
            </Button>
          </span>
        </Field>
        <Field label="note">
          <input className="field w-[220px]" aria-label="Note" maxLength={200} {...form.register('note')} />
        </Field>
        <Wrong>{wrongIn(form.formState.errors)}</Wrong>
        <Button type="submit" disabled={!ready}>
          make the alert
        </Button>
      </form>
    </Popover>
  );
}
