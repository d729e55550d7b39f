import { useStore } from '@nanostores/react';
import { Tooltip } from 'radix-ui';
import { useEffect, useState } from 'react';
import 'virtual:palette.css';
import { $ready, begin } from '../../live/index.ts';
import { OrderSlip } from '../slip/OrderSlip.tsx';
import { Workspace } from '../workspace/Workspace.tsx';
import { Bands } from './Bands.tsx';
import { Announcer } from './Announcer.tsx';
import { Rail } from './Rail.tsx';
import { beginWindow } from './begin-window.ts';
import { KeyHelp } from './KeyHelp.tsx';
import { SavedQuestions } from './SavedQuestions.tsx';
import { TopLine } from './TopLine.tsx';

/** The whole window: top line, risk rail, workspace. */
export function App() {
  const ready = useStore($ready);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    beginWindow();
    begin()
      .then((signedIn) => {
        if (!signedIn) window.location.assign('/sign-in');
      })
      .catch(() => setFailed(true));
  }, []);
  if (failed) return <p className="p-6">Kavix does not answer. Is it running? Load this page again when it is.</p>;
  if (!ready) return <div className="skeleton h-full" role="status" aria-label="Loading" />;
  return (
    <Tooltip.Provider delayDuration={500}>
      <div className="flex h-full flex-col gap-[2px]">
        <TopLine />
        <Bands />
        <Rail />
        <Workspace />
        <OrderSlip />
        <Announcer />
        <SavedQuestions />
        <KeyHelp />
      </div>
    </Tooltip.Provider>
  );
}
