import { useStore } from '@nanostores/react';
import { Component, Suspense, useEffect, useRef, type ReactNode } from 'react';
import { Button } from '../../kit/Button.tsx';
import { PANES } from '../panes/index.ts';
import { takesInstrument } from './drag.ts';
import { $activePane, $letters, $panes, activate, setInstrument, targetOf } from './panes.ts';
import { COMMON, readSettings } from './settings.ts';
import { $moving } from './stillness.ts';

/** One pane: a region with a name, which becomes active by a press inside it. `onPressed` follows the press. */
export function PaneHost({ id, onPressed }: { id: string; onPressed?: () => void }) {
  const panes = useStore($panes);
  useStore($letters);
  const pane = panes[id];
  const host = useRef<HTMLElement>(null);
  const active = useStore($activePane) === id;
  useEffect(() => {
    host.current?.closest('.dv-groupview')?.classList.toggle('active-pane', active);
  }, [active]);
  // A press would not count while this stands.
  useEffect(() => $moving.subscribe((moving) => host.current?.toggleAttribute('data-moving', id in moving)), [id]);
  if (!pane) return null;
  const target = targetOf(id);
  const View = PANES[pane.kind].view;
  const { density, colours, size } = readSettings(pane, COMMON);
  return (
    <section
      ref={host}
      role="region"
      tabIndex={-1}
      aria-label={`${pane.kind}${target ? ` ${target.instrument}` : ''}`}
      data-pane={id}
      data-density={density}
      data-colours={colours}
      style={{ fontSize: `${size}px` }}
      className="h-full overflow-hidden bg-pane outline-none"
      onPointerDownCapture={() => activate(id)}
      onPointerUpCapture={onPressed}
      onFocusCapture={() => activate(id)}
      {...takesInstrument((dropped) => {
        setInstrument(id, dropped);
        activate(id);
      })}
    >
      <KeepsErrors kind={pane.kind}>
        <Suspense fallback={<div className="skeleton h-full" role="status" aria-label={`Loading ${pane.kind}`} />}>
          <View id={id} />
        </Suspense>
      </KeepsErrors>
    </section>
  );
}

/** An error in a pane stays in it and says so; the other panes go on. */
class KeepsErrors extends Component<{ kind: string; children: ReactNode }, { error: Error | null }> {
  override state: { error: Error | null } = { error: null };

  static getDerivedStateFromError(error: Error): { error: Error } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <div className="p-2" role="alert">
        <p>
          <span className="plate heather">{this.props.kind} stopped</span> The other panes go on; nothing was sent.
        </p>
        <p className="my-1 text-quiet">{error.message}</p>
        <Button onClick={() => this.setState({ error: null })}>Open it again</Button>
      </div>
    );
  }
}
