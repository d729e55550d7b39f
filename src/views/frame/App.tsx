import { useStore } from '@nanostores/react';
import { useEffect, useState } from 'react';
import 'virtual:palette.css';
import { $settings, $settingsState, changeSettings } from '../../client/settings.ts';
import { $clock, $ready, begin } from '../../live/index.ts';
import { Queries } from '../act/queries.tsx';
import { OrderSlip } from '../act/OrderSlip.tsx';
import { PAGES } from '../pages/index.ts';
import { $page, followAddress, showPage } from '../pages/route.ts';
import { Workspace } from '../workspace/Workspace.tsx';
import { Bands } from './Bands.tsx';
import { Announcer } from './Announcer.tsx';
import { OrderLayer } from './OrderLayer.tsx';
import { Rail } from './Rail.tsx';
import { beginWindow } from './begin-window.ts';
import { KeyHelp } from './KeyHelp.tsx';
import { ConsentQuestion } from './ConsentQuestion.tsx';
import { SavedQuestions } from './SavedQuestions.tsx';
import { PageHost } from './PageHost.tsx';
import { sheetAt } from '../pages/sheet/due.ts';
import { TopLine } from './TopLine.tsx';
import { WindowKeys } from './WindowKeys.tsx';

/** Opens the day sheet at the first sign-in of a trading day, and at the first one after the week's last close. */
function DaySheetOpener(): null {
  const settings = useStore($settings);
  const state = useStore($settingsState);
  const time = useStore($clock)?.time;
  const sheet = time === undefined ? null : sheetAt(Date.parse(time));
  const due = state === 'known' && sheet !== null && settings.daySheet && settings.daySheetSeen !== sheet;
  useEffect(() => {
    if (!due || sheet === null) return;
    changeSettings({ daySheetSeen: sheet });
    if ($page.get() === null) showPage('sheet');
    // eslint-disable-next-line react-hooks/exhaustive-deps -- at sign-in alone: a day that turns under the hands covers nothing
  }, [state === 'known' && sheet !== null]);
  return null;
}

/** The whole window: top line, risk rail, workspace. */
export function App() {
  const ready = useStore($ready);
  const page = useStore($page);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    beginWindow();
    followAddress();
    begin()
      .then((signedIn) => {
        if (!signedIn) window.location.assign('/sign-in');
      })
      .catch(() => setFailed(true));
  }, []);
  if (failed) return <p className="p-6">Kavix does not answer. Is it running? Load this page again when it is.</p>;
  if (!ready) return <div className="skeleton h-full" role="status" aria-label="Loading" />;
  return (
    <Queries>
      <div className="flex h-full flex-col gap-[2px]">
        <TopLine />
        <Bands />
        <Rail />
        <main className="relative min-h-0 flex-1" aria-label={page === null ? 'Workspace' : PAGES[page].title}>
          <div className="isolate h-full px-2 pb-2" inert={page !== null}>
            <Workspace />
          </div>
          <PageHost />
        </main>
        <DaySheetOpener />
        <OrderSlip />
        <Announcer />
        <SavedQuestions />
        <ConsentQuestion />
        <KeyHelp />
        <WindowKeys />
        <OrderLayer />
      </div>
    </Queries>
  );
}
