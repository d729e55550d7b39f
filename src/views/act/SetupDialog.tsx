import { useForm } from 'react-hook-form';
import { answer } from '../../client/answers.ts';
import { NONE } from '../../core/review/index.ts';
import { Button } from '../../kit/Button.tsx';
import { Dialog } from '../../kit/Dialog.tsx';
import { problemWords, request } from '../../live/index.ts';
import { Wrong, checkedAs, wrongIn } from './checked.tsx';
import { askAgain, useAsked } from './queries.tsx';

interface Props {
  readonly pane: string;
  readonly account: string;
  readonly instrument: string;
  readonly onClose: () => void;
}

interface Body {
  readonly setup: string | null;
}

const bodyOf = ({ setup }: { setup: string }): Body => ({ setup: setup.trim() === '' ? null : setup.trim() });

/** Says of what setup a position is: its round trip counts there once it is over. */
export function SetupDialog({ pane, account, instrument, onClose }: Props) {
  const path = { account, instrument };
  const { data } = useAsked('GET /api/positions/{account}/{instrument}/setup', { path });
  const known = useAsked('GET /api/review/choices', { query: { account: [account] } }, { freshMs: 5000 }).data?.setups ?? [];
  const form = useForm<{ setup: string }>({
    values: { setup: data?.setup ?? '' },
    resetOptions: { keepDirtyValues: true },
    resolver: checkedAs('setup', bodyOf),
  });
  const save = async (body: Body): Promise<void> => {
    const { setup } = body;
    const done = await request('PUT /api/positions/{account}/{instrument}/setup', { path, body });
    if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
    answer(pane, 'done', setup === null ? `${instrument} has no setup` : `${instrument} is a ${setup}`);
    await askAgain('GET /api/positions/{account}/{instrument}/setup');
    onClose();
  };
  return (
    <Dialog title={`Setup of ${instrument} in ${account}`} onClose={onClose}>
      <form className="flex flex-col gap-2" onSubmit={(event) => void form.handleSubmit((typed) => save(bodyOf(typed)))(event)}>
        <input className="field" aria-label="Setup" autoComplete="off" maxLength={64} {...form.register('setup')} />
        <Wrong>{wrongIn(form.formState.errors)}</Wrong>
        <span className="flex flex-wrap gap-1">
          {known
            .filter((setup) => setup !== NONE)
            .map((setup) => (
              <Button key={setup} size="small" onClick={() => form.setValue('setup', setup, { shouldDirty: true })}>
                {setup}
              </Button>
            ))}
        </span>
        <span className="flex gap-1">
          <Button type="submit">save</Button>
          <Button onClick={() => void save({ setup: null })}>none</Button>
        </span>
      </form>
    </Dialog>
  );
}
