import { namedThings } from '../../../client/saved-remote.ts';
import { thingsOf } from '../../../client/things.ts';
import { KeptSets } from '../../act/KeptSets.tsx';
import type { StudyUse } from './model.ts';

const sets = thingsOf<{ readonly studies: readonly StudyUse[] }>('study-sets', 'the study set', {
  remote: namedThings('study-sets'),
  first: () => ({ studies: [] }),
});

interface Props {
  readonly uses: readonly StudyUse[];
  readonly onTake: (name: string, studies: readonly StudyUse[]) => void;
}

/** Studies kept under a name, to be put on any chart. */
export const StudySets = ({ uses, onTake }: Props) => (
  <div className="mt-2 border-t border-hair pt-1">
    <span className="text-quiet">Sets</span>
    <KeptSets kind="study-sets" what="set" things={sets} now={uses.length > 0 ? { studies: uses } : null} onTake={(name, set) => onTake(name, set.studies)} />
  </div>
);
