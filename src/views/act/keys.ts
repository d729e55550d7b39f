import { useEffect, useRef } from 'react';
import { answer } from '../../client/answers.ts';
import { chordOf, keys, type Command } from '../../client/keys.ts';
import { $page } from '../pages/route.ts';
import { $activePane, $panes, targetOf } from '../workspace/panes.ts';

const FIELD = 'input:not([type="checkbox"], [type="radio"]), textarea, select, [contenteditable]';
/** What is open over the panes has its own keys. */
const OVER = '[role="menu"], [role="dialog"], [role="listbox"], [data-radix-popper-content-wrapper]';

/** What a key is called: one of the number pad by itself first, then by what it writes. */
export function chordsOf(event: Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'altKey' | 'metaKey' | 'shiftKey'>): string[] {
  const chord = chordOf({ key: event.key, ctrl: event.ctrlKey, alt: event.altKey, meta: event.metaKey, shift: event.shiftKey });
  return event.code.startsWith('Numpad') ? [`Numpad ${event.key}`, chord] : [chord];
}

/** Tells this window's keys to those who have them. Call once. */
export function listenToKeys(): void {
  window.addEventListener('keydown', (event) => {
    const at = event.target as HTMLElement;
    if (event.defaultPrevented || at.closest(OVER) !== null || event.isComposing) return;
    // A focused button keeps its own keys.
    if ((event.key === ' ' || event.key === 'Enter') && !event.ctrlKey && at.matches('button, a, summary')) return;
    const chords = chordsOf(event);
    const caret = at.matches(FIELD);
    const wanted = chords.some((chord) => keys.route({ chord, repeat: event.repeat, caret }) !== 'nobody');
    if (wanted || (!caret && chords.some((chord) => findByLetter(chord, at)))) event.preventDefault();
  });
}

/** A letter that means nothing else in a pane with an instrument opens the look-up with it. */
function findByLetter(chord: string, at: HTMLElement): boolean {
  const letter = /^(?:Shift\+)?([a-z])$/.exec(chord)?.[1];
  const active = $activePane.get();
  if (letter === undefined || active === null || $page.get() !== null || targetOf(active) === null || at.matches('button')) return false;
  window.dispatchEvent(new CustomEvent('kavix-find', { detail: letter }));
  return true;
}

/** The commands of a pane: its while it is active. */
export function usePaneCommands(id: string, commands: readonly Command[]): void {
  const newest = useRef(commands);
  newest.current = commands;
  useEffect(
    () =>
      keys.own({
        name: $panes.get()[id]?.kind ?? 'Pane',
        pane: id,
        inSight: () => document.querySelector(`[data-pane="${id}"]`)?.checkVisibility() ?? false,
        has: () => $activePane.get() === id && $page.get() === null,
        commands: () => newest.current,
        refuse: (words) => answer(id, 'refused', words),
      }),
    [id],
  );
}

/** The commands of the frame, which are there for every pane. */
export function useFrameCommands(commands: readonly Command[]): void {
  const newest = useRef(commands);
  newest.current = commands;
  useEffect(() => keys.own({ name: 'Everywhere', has: () => true, commands: () => newest.current }), []);
}
