import { useStore } from '@nanostores/react';
import { $questions } from '../../client/things.ts';

/** What was changed here and in another window or browser at once: the trader says which one stays. */
export function SavedQuestions() {
  const questions = useStore($questions);
  return questions.map(({ what, name, settle }) => (
    <div key={`${what} ${name}`} role="alert" className="floats fixed bottom-4 left-4 z-40 flex items-center gap-2 p-2">
      <span>
        {what} <b>{name}</b> was changed elsewhere too.
      </span>
      <button type="button" className="control" onClick={() => settle('mine')}>
        keep this one
      </button>
      <button type="button" className="control" onClick={() => settle('theirs')}>
        take the other
      </button>
    </div>
  ));
}
