import { useStore } from '@nanostores/react';
import { useEffect, useRef } from 'react';
import { answer } from '../../client/answers.ts';
import { boundChord } from '../../client/bindings.ts';
import { $slip } from '../../client/gestures/index.ts';
import { BOUND, LAYER, keys, runCommand, type Command } from '../../client/keys.ts';
import { canTrade } from '../../client/session.ts';
import { $settings } from '../../client/settings.ts';
import { later, usePart } from '../../kit/later.ts';
import { doPhrase } from '../act/phrases-later.ts';
import { $page } from '../pages/route.ts';
import { $panes, $target, surfaceOf } from '../workspace/panes.ts';
import { $layer, boundNow, closeLayer, layerKeys } from './layer.ts';

/** Two taps within this latch it, where that is set. */
const TWICE_MS = 400;

const OPEN = later(() => import('./OpenLayer.tsx'));

function whyNot(): string | null {
  const target = $target.get();
  if (target === null || $page.get() !== null) return 'there is no target';
  if ($slip.get() !== null || document.querySelector('[data-radix-popper-content-wrapper], [role="dialog"]')) return 'something is open over the panes';
  return canTrade(target.account, target.instrument) ? null : `${target.account} can’t trade ${target.instrument}`;
}

/** Listens for the key that opens the layer, and is the layer while it is held. */
export function OrderLayer() {
  const layer = useStore($layer);
  const tapped = useRef(-Infinity);
  useEffect(
    () =>
      keys.own({
        name: 'Everywhere',
        has: () => $layer.get() === null,
        commands: () => [
          {
            keys: ['Space'],
            words: 'hold: the order layer, every key of it with what it would do now',
            order: true,
            cannot: whyNot,
            run: () => {
              const target = $target.get();
              const now = performance.now();
              const latched = $settings.get().latch && now - tapped.current < TWICE_MS;
              tapped.current = now;
              if (target) $layer.set({ target, latched });
            },
          },
        ],
        refuse: (words) => {
          const target = $target.get();
          if (target) answer(target.pane, 'refused', words);
        },
      }),
    [],
  );
  useEffect(
    () =>
      keys.own({
        name: BOUND,
        has: () => $layer.get() === null && $page.get() === null,
        commands: () =>
          boundNow().flatMap(({ key, phrase, command }): Command[] => {
            const { layer: inLayer, chord } = boundChord(key);
            if (inLayer) return [];
            if (command) return [{ keys: [chord], words: command.replaceAll('-', ' '), run: () => runBound(command) }];
            if (!phrase) return [];
            const run = (): void => {
              const target = $target.get();
              const kind = target && $panes.get()[target.pane]?.kind;
              if (target && kind) void doPhrase(target.pane, surfaceOf(kind), phrase, target);
            };
            return [{ keys: [chord], words: phrase, cannot: whyNot, run }];
          }),
      }),
    [],
  );
  useEffect(
    () =>
      keys.own({
        name: LAYER,
        has: () => $layer.get() !== null,
        alone: true,
        commands: () => layerKeys.now,
        refuse: (words) => {
          const layer = $layer.get();
          if (layer) answer(layer.target.pane, 'refused', words);
        },
      }),
    [],
  );
  useEffect(() => {
    if (!layer) return undefined;
    const up = (event: KeyboardEvent): void => {
      if (event.key === ' ' && !layer.latched) closeLayer();
    };
    window.addEventListener('keyup', up);
    window.addEventListener('blur', closeLayer);
    return () => {
      window.removeEventListener('keyup', up);
      window.removeEventListener('blur', closeLayer);
    };
  }, [layer]);
  const open = usePart(OPEN, layer !== null);
  return layer && open && <open.OpenLayer key={`${layer.target.pane} ${layer.target.instrument}`} {...layer} />;
}

function runBound(command: string): void {
  const why = runCommand(command);
  const target = $target.get();
  if (why !== null && target) answer(target.pane, 'refused', why);
}
