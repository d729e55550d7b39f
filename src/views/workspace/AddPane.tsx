import { Plus } from 'lucide-react';
import type { ReactNode } from 'react';
import { Choice } from '../../kit/Choice.tsx';
import { PANES } from '../panes/index.ts';
import { openPane } from './layout.ts';
import { PANE_KINDS } from './panes.ts';

const KINDS = PANE_KINDS.map((kind) => ({ value: kind, words: kind, about: PANES[kind].about }));
const BOX = 'min-h-[24px] shrink-0 rounded-[2px] border border-line hover:bg-raised';

/** The one list from which panes are added. */
export function AddPane({ children }: { children?: ReactNode }) {
  return (
    <Choice label="Add a pane" value={null} options={KINDS} onPick={(kind) => openPane(kind)} className={children ? `${BOX} px-2` : `${BOX} w-7`}>
      {children ?? <Plus size={14} className="mx-auto" />}
    </Choice>
  );
}
