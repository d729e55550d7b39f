import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import 'virtual:palette.css';
import { drawnMoney, inCents } from '../../core/number/index.ts';
import { dayResult } from '../../core/portfolio/index.ts';
import { $ready, $positions, begin } from '../../live/index.ts';
import { Queries } from '../act/queries.tsx';
import { OrderSlip } from '../act/OrderSlip.tsx';
import { fitting, workspaces } from '../workspace/documents.ts';
import { $letters, $panes, $target, activate } from '../workspace/panes.ts';
import { PaneHost } from '../workspace/PaneHost.tsx';
import { TitleLine } from '../workspace/PaneTitle.tsx';
import { shareFromWindow } from '../workspace/windows.ts';
import { Announcer } from './Announcer.tsx';
import { beginWindow } from './begin-window.ts';
import { KeyHelp } from './KeyHelp.tsx';
import { ConsentQuestion } from './ConsentQuestion.tsx';
import { OrderLayer } from './OrderLayer.tsx';
import { SavedQuestions } from './SavedQuestions.tsx';
import { Bands } from './Bands.tsx';
import { Bar } from './Bar.tsx';
import { Lamps } from './Lamps.tsx';
import { Plate } from './Plate.tsx';
import { WindowKeys } from './WindowKeys.tsx';

/** A pane in a window of its own: the plate and the lamps in its title line, the day as a thin line above. */
export function PaneWindow() {
  const ready = useStore($ready);
  const [pane, setPane] = useState<string | null>(null);
  const [gone, setGone] = useState(false);
  useEffect(() => {
    beginWindow();
    const asked = new URLSearchParams(window.location.search);
    const workspace = asked.get('workspace') ?? '';
    const id = asked.get('pane') ?? '';
    const open = async (): Promise<void> => {
      if (!(await begin())) {
        window.location.assign('/sign-in');
        return;
      }
      const document = fitting(await workspaces.known(workspace));
      const found = document.panes[id];
      if (!found) {
        setGone(true);
        return;
      }
      $letters.set(document.letters);
      $panes.set({ [id]: { id, ...found } });
      shareFromWindow(workspace, id);
      activate(id);
      setPane(id);
    };
    open().catch(() => setGone(true));
  }, []);
  if (gone) return <p className="p-6">This pane is no longer part of its workspace. Close this window.</p>;
  if (!ready || pane === null) return <div className="skeleton h-full" role="status" aria-label="Loading" />;
  return (
    <Queries>
      <main className="flex h-full flex-col" aria-label="Pane in its own window">
        <h1 className="sr-only">A pane of Kavix</h1>
        <DayLine />
        <header className="flex h-[32px] shrink-0 items-center gap-2 px-2">
          <Plate />
          <Bar alone />
          <span className="flex-1" />
          <Lamps />
        </header>
        <Bands />
        <div className="h-[24px] shrink-0 border-b border-hair bg-pane">
          <TitleLine id={pane} panel={null} />
        </div>
        <div className="min-h-0 flex-1">
          <PaneHost id={pane} />
        </div>
        <OrderSlip />
        <Announcer />
        <SavedQuestions />
        <ConsentQuestion />
        <OrderLayer />
        <KeyHelp />
        <WindowKeys />
      </main>
    </Queries>
  );
}

/** The day's net of the plate's account as a line of 4 px: right of the middle is gain, left is loss. */
function DayLine() {
  const positions = useStore($positions);
  const account = useStore($target)?.account;
  const day = account === undefined ? null : dayResult(Object.values(positions), account);
  const net = day === null ? 0 : drawnMoney(day.net);
  const share = Math.min(50, Math.abs(net) / 20);
  return (
    <div
      className="relative h-[4px] shrink-0 bg-well"
      role="img"
      aria-label={`${account ?? 'no account'}: net ${day === null ? 'not known' : inCents(day.net)}`}
    >
      <div className={`absolute inset-y-0 ${net < 0 ? 'bg-copper' : 'bg-weed'}`} style={{ width: `${share}%`, left: net < 0 ? `${50 - share}%` : '50%' }} />
    </div>
  );
}
