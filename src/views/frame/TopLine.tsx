import { useStore } from '@nanostores/react';
import { LogOut, Menu as MenuIcon, Moon, Settings, Sun } from 'lucide-react';
import { Menu, MenuChoice, MenuItem, MenuLine } from '../../kit/Menu.tsx';
import { $directSend, type DirectSend, SURFACES, DIRECT_SENDS, setDirectSend } from '../../client/session.ts';
import { request } from '../../live/index.ts';
import { Mark } from '../../kit/Mark.tsx';
import { PAGES } from '../pages/index.ts';
import { PAGE_NAMES, showPage } from '../pages/route.ts';
import { $theme, setTheme } from '../theme/theme.ts';
import { AddPane } from '../workspace/AddPane.tsx';
import { Bar } from './Bar.tsx';
import { Lamps } from './Lamps.tsx';
import { MarketClock } from './MarketClock.tsx';
import { WorkspaceTabs } from './WorkspaceTabs.tsx';

/** Mark, workspaces, command bar, market clock, lamps, menu: 34 px. */
export function TopLine() {
  return (
    <header className="flex h-[34px] shrink-0 items-center gap-2 px-2">
      <Mark />
      <WorkspaceTabs />
      <AddPane />
      <Bar />
      <MarketClock />
      <Lamps />
      <MainMenu />
    </header>
  );
}

const SAID: Readonly<Record<DirectSend, string>> = {
  off: 'off: every gesture opens the slip',
  'exits only': 'exits only: what closes goes at once',
  all: 'all: every gesture sends at once',
};

function MainMenu() {
  const theme = useStore($theme);
  const direct = useStore($directSend);
  return (
    <Menu
      align="end"
      className="w-72"
      trigger={
        <button type="button" className="min-h-[24px] w-8 rounded-[2px] border border-line hover:bg-raised" aria-label="Menu">
          <MenuIcon size={16} className="mx-auto" />
        </button>
      }
    >
      <MenuItem onPick={() => setTheme(theme === 'night' ? 'day' : 'night')}>
        {theme === 'night' ? <Sun size={14} /> : <Moon size={14} />}
        {theme === 'night' ? 'Chart room (light)' : 'Night watch (dark)'}
      </MenuItem>
      {PAGE_NAMES.map((name) => (
        <MenuItem key={name} onPick={() => showPage(name)}>
          <Settings size={14} />
          {PAGES[name].title}
        </MenuItem>
      ))}
      <MenuLine />
      {SURFACES.map((surface) => (
        <MenuChoice
          key={surface}
          label={`Direct send, ${surface}`}
          value={direct[surface]}
          options={DIRECT_SENDS.map((one) => ({ value: one, words: SAID[one], name: `${surface} ${SAID[one]}` }))}
          onPick={(picked) => setDirectSend(surface, picked)}
        />
      ))}
      <MenuLine />
      <MenuItem onPick={() => void request('DELETE /api/session').then(() => window.location.assign('/sign-in'))}>
        <LogOut size={14} />
        Sign out
      </MenuItem>
    </Menu>
  );
}
