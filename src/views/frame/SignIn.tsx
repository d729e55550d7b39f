import { useEffect, useState } from 'react';
import { useForm } from 'react-hook-form';
import 'virtual:palette.css';
import { beginsSignedIn } from '../../client/session.ts';
import { request } from '../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from '../act/checked.tsx';
import { loadTheme } from '../theme/theme.ts';
import { Button } from '../../kit/Button.tsx';
import { Coast } from './Coast.tsx';

const DEMO = { user: 'demo', password: 'kavix-demo' };

interface Values {
  user: string;
  password: string;
  code: string;
}

const FIELD_WORDS = { user: 'the name' };
const bodyOf = ({ user, password, code }: Values) => ({ user: user.trim(), password, ...(code.trim() === '' ? {} : { code: code.trim() }) });

/** Signing in; in the demo one press is enough. */
export function SignIn({ closes, time }: { closes: readonly number[]; time: number | null }) {
  const [words, setWords] = useState<string | null>(null);
  const [needsCode, setNeedsCode] = useState(false);
  const [busy, setBusy] = useState(false);
  const { register, handleSubmit, formState } = useForm<Values>({
    defaultValues: { user: '', password: '', code: '' },
    resolver: checkedAs('signIn', bodyOf),
  });
  useEffect(loadTheme, []);
  const signIn = async (body: Record<string, string>): Promise<void> => {
    setBusy(true);
    const answer = await request('POST /api/session', { body });
    setBusy(false);
    if (answer.ok) {
      beginsSignedIn();
      window.location.assign('/');
      return;
    }
    // Once asked for, the code stays: a wrong one is typed again.
    if ('needs' in answer.problem) setNeedsCode(true);
    setWords('needs' in answer.problem ? 'This user has a second step: give its code.' : answer.problem.detail);
  };
  return (
    <main className="relative grid h-full grid-cols-[1fr_400px] items-center overflow-hidden">
      <Coast closes={closes} time={time} />
      <div className="relative mr-12 border border-hair bg-pane p-6">
        <h1 className="mb-1 text-[20px] font-semibold">Kavix</h1>
        <p className="mb-4 text-quiet">A trader’s desk on an invented coast. Broker, exchanges and news here are simulated.</p>
        <Button size="large" className="mb-4 w-full" disabled={busy} onClick={() => void signIn(DEMO)} data-testid="demo-sign-in">
          Enter the demo
        </Button>
        <form className="grid gap-2" onSubmit={(event) => void handleSubmit((values) => signIn(bodyOf(values)))(event)}>
          <label className="grid gap-1">
            <span className="text-quiet">name</span>
            <input className="field" autoComplete="username" required {...register('user')} />
          </label>
          <label className="grid gap-1">
            <span className="text-quiet">password</span>
            <input className="field" type="password" autoComplete="current-password" required {...register('password')} />
          </label>
          {needsCode && (
            <label className="grid gap-1">
              <span className="text-quiet">code</span>
              <input className="field" inputMode="numeric" autoComplete="one-time-code" {...register('code')} />
            </label>
          )}
          <Wrong>{wrongIn(formState.errors, FIELD_WORDS)}</Wrong>
          <Button type="submit" size="large" className="mt-1" disabled={busy}>
            Sign in
          </Button>
        </form>
        <p role="alert" className="mt-3 min-h-[18px]">
          {words && <span className="plate heather whitespace-normal">{words}</span>}
        </p>
      </div>
    </main>
  );
}
