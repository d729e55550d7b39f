import { useStore } from '@nanostores/react';
import { LogOut, Menu, Moon, Sun } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { notePopoverClosed } from '../../client/gestures/index.ts';
import { $directSend, type DirectSend, SURFACES, DIRECT_SENDS, setDirectSend } from '../../client/session.ts';
import { request } from '../../live/index.ts';
import { Mark } from '../../kit/Mark.tsx';
import { $theme, setTheme } from '../theme/theme.ts';
import { AddPane } from '../workspace/AddPane.tsx';
import { CommandBar } from './CommandBar.tsx';
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
      <CommandBar />
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
    <DropdownMenu.Root modal={false} onOpenChange={(open) => !open && notePopoverClosed()}>
      <DropdownMenu.Trigger className="control w-8 !px-0" aria-label="Menu">
        <Menu size={16} className="mx-auto" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className="floats w-72 p-1" align="end" sideOffset={4}>
          <DropdownMenu.Item className="menu-item" onSelect={() => setTheme(theme === 'night' ? 'day' : 'night')}>
            {theme === 'night' ? <Sun size={14} /> : <Moon size={14} />}
            {theme === 'night' ? 'Chart room (light)' : 'Night watch (dark)'}
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 h-px bg-hair" />
          {SURFACES.map((surface) => (
            <DropdownMenu.Group key={surface}>
              <DropdownMenu.Label className="quiet px-2">Direct send, {surface}</DropdownMenu.Label>
              <DropdownMenu.RadioGroup value={direct[surface]} onValueChange={(value) => setDirectSend(surface, value as DirectSend)}>
                {DIRECT_SENDS.map((setting) => (
                  <DropdownMenu.RadioItem key={setting} value={setting} className="menu-item" aria-label={`${surface} ${SAID[setting]}`}>
                    <span className="w-3">{direct[surface] === setting ? '•' : ''}</span>
                    {SAID[setting]}
                  </DropdownMenu.RadioItem>
                ))}
              </DropdownMenu.RadioGroup>
            </DropdownMenu.Group>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-hair" />
          <DropdownMenu.Item className="menu-item" onSelect={() => void request('DELETE /api/session').then(() => window.location.assign('/sign-in'))}>
            <LogOut size={14} />
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
