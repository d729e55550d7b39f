import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { Button } from '../../../kit/Button.tsx';
import { clockText, ownZone } from '../../../kit/clock.ts';
import { $session, problemWords, request } from '../../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from '../../act/checked.tsx';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { Section } from './Section.tsx';

const DAY_MS = 86_400_000;
const dayOf = (time: string): string => clockText(ownZone(), time, 'yyyy-MM-dd HH:mm');

/** The second step of signing in: a code of an authenticator (RFC 6238). */
export function SecondStep() {
  const on = useStore($session)?.user.secondStep ?? false;
  const [secret, setSecret] = useState<string | null>(null);
  const [words, setWords] = useState<string | null>(null);
  const form = useForm<{ code: string }>({ defaultValues: { code: '' }, resolver: checkedAs('secondStep', ({ code }) => ({ code: code.trim() })) });
  const begin = async (): Promise<void> => {
    const begun = await request('POST /api/session/second-step', { body: {} });
    if (begun.ok) setSecret(begun.value.secret);
    setWords(begun.ok ? null : problemWords(begun.problem));
  };
  const give = form.handleSubmit(async ({ code }) => {
    const body = { code: code.trim() };
    const done = on ? await request('DELETE /api/session/second-step', { body }) : await request('POST /api/session/second-step', { body });
    form.reset();
    const session = $session.get();
    if (!done.ok) setWords(done.problem.status === 401 ? 'That code is wrong. Codes change every 30 seconds.' : problemWords(done.problem));
    else if (session) {
      $session.set({ ...session, user: { ...session.user, secondStep: !on } });
      setSecret(null);
      setWords(null);
    }
  });
  return (
    <Section title="Second step" about={on ? 'Signing in asks for a code of your authenticator.' : 'Signing in asks for name and password alone.'}>
      {!on && secret === null && <Button onClick={() => void begin()}>Begin a second step</Button>}
      {secret !== null && (
        <p className="mb-2">
          Give this secret to your authenticator, then a code of it:{' '}
          <span className="figure select-all font-bold">{secret.replace(/(.{4})/g, '$1 ').trim()}</span>
        </p>
      )}
      {(on || secret !== null) && (
        <form className="flex gap-1" onSubmit={(event) => void give(event)}>
          <input
            className="field figure w-[96px]"
            aria-label="Code"
            placeholder="6 digits"
            inputMode="numeric"
            autoComplete="one-time-code"
            {...form.register('code')}
          />
          <Button type="submit">{on ? 'End the second step' : 'Confirm'}</Button>
        </form>
      )}
      <Wrong>{wrongIn(form.formState.errors) ?? words}</Wrong>
    </Section>
  );
}

const WHOLE_DAYS = /^[1-9]\d{0,3}$/;

/** A token for some days, or without end. */
function tokenOf({ name, days }: { name: string; days: string }): { name: string; expiresAt?: string } {
  const text = days.trim();
  if (text === '') return { name: name.trim() };
  return { name: name.trim(), expiresAt: WHOLE_DAYS.test(text) ? new Date(Date.now() + Number(text) * DAY_MS).toISOString() : text };
}

/** Personal tokens, with which scripts call the API. */
export function Tokens() {
  const tokens = useAsked('GET /api/tokens', {});
  const [made, setMade] = useState<{ readonly name: string; readonly token: string } | null>(null);
  const [words, setWords] = useState<string | null>(null);
  const form = useForm<{ name: string; days: string }>({
    defaultValues: { name: '', days: '' },
    resolver: checkedAs('token', tokenOf, { '/expiresAt': 'days' }),
  });
  const { errors } = form.formState;
  const make = form.handleSubmit(async (values) => {
    const done = await request('POST /api/tokens', { body: tokenOf(values) });
    setWords(done.ok ? null : problemWords(done.problem));
    setMade(done.ok ? done.value : null);
    if (done.ok) form.reset();
    await askAgain('GET /api/tokens');
  });
  const drop = async (id: string): Promise<void> => {
    const done = await request('DELETE /api/tokens/{id}', { path: { id } });
    setWords(done.ok ? null : problemWords(done.problem));
    await askAgain('GET /api/tokens');
  };
  return (
    <Section title="Tokens" about="With a token a script may do all that you may.">
      <ul>
        {tokens.data?.items.map(({ id, name, createdAt, expiresAt }) => (
          <li key={id} className="flex min-h-[26px] items-center gap-2">
            <span className="flex-1 truncate">{name}</span>
            <span className="text-quiet">
              since {dayOf(createdAt)}, {expiresAt === null ? 'without end' : `until ${dayOf(expiresAt)}`}
            </span>
            <Button aria-label={`Delete the token ${name}`} onClick={() => void drop(id)}>
              delete
            </Button>
          </li>
        ))}
      </ul>
      {tokens.data?.items.length === 0 && <p className="text-quiet">No tokens.</p>}
      <form className="mt-1 flex gap-1" onSubmit={(event) => void make(event)}>
        <input className="field flex-1" aria-label="Name of a new token" placeholder="name" maxLength={64} {...form.register('name')} />
        <input className="field figure w-[72px]" aria-label="Days it lasts" placeholder="days" inputMode="numeric" {...form.register('days')} />
        <Button type="submit">make</Button>
      </form>
      {made && (
        <p role="status" className="mt-2">
          The token {made.name}, told this once: <span className="figure select-all break-all whitespace-normal font-bold">{made.token}</span>
        </p>
      )}
      <Wrong>{errors.days ? 'it lasts whole days, 1 to 9999, or without end where none are given' : (wrongIn(errors) ?? words)}</Wrong>
    </Section>
  );
}

/** Where the user is signed in. */
export function SignedIn() {
  const sessions = useAsked('GET /api/sessions', {});
  const end = async (id: string): Promise<void> => {
    await request('DELETE /api/sessions/{id}', { path: { id } });
    await askAgain('GET /api/sessions');
  };
  const everywhere = async (): Promise<void> => {
    if ((await request('DELETE /api/sessions')).ok) window.location.assign('/sign-in');
  };
  return (
    <Section title="Signed in">
      <ul>
        {sessions.data?.items.map(({ id, agent, createdAt, current }) => (
          <li key={id} className="flex min-h-[26px] items-center gap-2">
            <span className="min-w-0 flex-1 truncate" title={agent}>
              {agent === '' ? 'unknown program' : agent}
            </span>
            <span className="shrink-0 text-quiet">{dayOf(createdAt)}</span>
            {current ? <span className="shrink-0">here</span> : <Button onClick={() => void end(id)}>sign out there</Button>}
          </li>
        ))}
      </ul>
      <Button className="mt-2" onClick={() => void everywhere()}>
        Sign out everywhere
      </Button>
    </Section>
  );
}
