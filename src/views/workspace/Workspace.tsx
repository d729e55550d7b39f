import { useStore } from '@nanostores/react';
import {
  DockviewReact,
  type DockviewReadyEvent,
  type IDockviewHeaderActionsProps,
  type IDockviewPanelHeaderProps,
  type IDockviewPanelProps,
} from 'dockview-react';
import { useEffect } from 'react';
import { AddPane } from './AddPane.tsx';
import { GAP } from './arrangement.ts';
import { $isEmpty, attach, toggleMaximised, walkPanes } from './layout.ts';
import { $activePane } from './panes.ts';
import { PaneHost } from './PaneHost.tsx';
import { PaneActions, PaneWord } from './PaneTitle.tsx';
import { shareFromMain } from './windows.ts';
import { useFrameCommands } from '../act/keys.ts';

const components = {
  // Docking lays the pane anew when it becomes active, which would swallow the click: after it, then.
  pane: ({ api }: IDockviewPanelProps) => <PaneHost id={api.id} onPressed={() => setTimeout(() => !api.isActive && api.setActive())} />,
};
const PaneTab = (props: IDockviewPanelHeaderProps) => <PaneWord id={props.api.id} panel={props.api} />;
const RightActions = (props: IDockviewHeaderActionsProps) => (props.activePanel ? <PaneActions panel={props.activePanel} /> : null);

/** What is given to docking is one and the same for ever: for whatever is new to it, it lays all panes out anew. */
const THEME = { name: 'kavix', className: 'kavix-dock', gap: GAP };
const ready = ({ api }: DockviewReadyEvent): void => attach(api);

export function Workspace() {
  const empty = useStore($isEmpty);
  useFrameCommands([
    { keys: ['F8'], words: 'the next pane', run: () => walkPanes(1) },
    { keys: ['Shift+F8'], words: 'the pane before', run: () => walkPanes(-1) },
    {
      keys: ['Ctrl+Shift+Enter'],
      words: 'all the room for this pane, and back',
      run: () => {
        const active = $activePane.get();
        if (active !== null) toggleMaximised(active);
      },
    },
  ]);
  useEffect(() => {
    shareFromMain();
  }, []);
  return (
    <div className="relative h-full">
      {/* The package reckons in the screen's pixels: what it lays out is not scaled, what stands in it is. */}
      <div className="h-full [zoom:calc(1/var(--zoom))]">
        <DockviewReact
          className="kavix-dock"
          theme={THEME}
          components={components}
          defaultTabComponent={PaneTab}
          rightHeaderActionsComponent={RightActions}
          disableFloatingGroups
          disableTabsOverflowList
          onReady={ready}
        />
      </div>
      {empty && (
        <div className="absolute inset-0 grid place-content-center justify-items-center gap-2">
          <p className="text-quiet">This workspace is empty.</p>
          <AddPane>Add a pane</AddPane>
        </div>
      )}
    </div>
  );
}
