import { useStore } from '@nanostores/react';
import { FLOAT } from '../../kit/floats.ts';
import { Button } from '../../kit/Button.tsx';
import { $questions } from '../../client/things.ts';

/** What was changed here and in another window or browser at once: the trader says which one stays. */
export function SavedQuestions() {
  const questions = useStore($questions);
  // Over the tab line, where it covers no order area; one after the other.
  return questions.slice(0, 1).map(({ what, name, settle }) => (
    <div key={`${what} ${name}`} role="alert" className={`${FLOAT} fixed left-[46px] top-[1px] z-40 flex h-[32px] items-center gap-2 px-2`}>
      <span>
        {what} <b>{name}</b> was changed elsewhere too.
      </span>
      <Button onClick={() => settle('mine')}>keep this one</Button>
      <Button onClick={() => settle('theirs')}>take the other</Button>
    </div>
  ));
}
