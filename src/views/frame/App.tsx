import { useStore } from '@nanostores/react';
import { Tooltip } from 'radix-ui';
import { useEffect, useState } from 'react';
import 'virtual:palette.css';
import { watchPresses } from '../../client/gestures/index.ts';
import { shareThings } from '../../client/things.ts';
import { $ready, begin } from '../../live/index.ts';
import { OrderSlip } from '../slip/OrderSlip.tsx';
import { loadTheme } from '../theme/theme.ts';
import { Workspace } from '../workspace/Workspace.tsx';
import { Bands } from './Bands.tsx';
import { Announcer } from './Announcer.tsx';
import { Rail } from './Rail.tsx';
import { KeyHelp } from './KeyHelp.tsx';
import { SavedQuestions } from './SavedQuestions.tsx';
import { TopLine } from './TopLine.tsx';
import { listenToKeys } from '../act/keys.ts';

/** The whole window: top line, risk rail, workspace. */
export function App() {
  const ready = useStore($ready);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    loadTheme();
    watchPresses();
    shareThings();
    listenToKeys();
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
