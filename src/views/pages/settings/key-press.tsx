import { useStore } from '@nanostores/react';
import { useEffect, useState, type KeyboardEvent } from 'react';
import { keyName } from '../../../core/language/index.ts';
import { readOrder, readingWords } from '../../act/phrase-order.ts';
import { $target } from '../../workspace/panes.ts';

const READ_EVERY_MS = 1000;
const MODIFIERS = new Set(['Control', 'Alt', 'Shift', 'Meta', ' ', 'Tab']);

/** A key as it is pressed, in the words of a binding; `Space` held makes it one of the order layer's. */
function pressed(event: KeyboardEvent, space: boolean): string | null {
  if (MODIFIERS.has(event.key)) return null;
  const held = [event.ctrlKey ? 'Ctrl' : '', event.altKey ? 'Alt' : '', event.shiftKey ? 'Shift' : ''].filter(Boolean);
  const base = event.code.startsWith('Numpad') ? `Numpad ${event.key}` : event.key;
  return keyName([...(space ? ['Space'] : []), ...held, base].join(' '));
}

/** What a field needs to hear real keys: they reach nothing else. */
export function usePressed(onKey: (key: string) => void) {
  const [space, setSpace] = useState(false);
  return {
    onKeyDown: (event: KeyboardEvent): void => {
      if (event.key === 'Tab') return;
      event.preventDefault();
      event.stopPropagation();
      if (event.key === ' ') setSpace(true);
      const key = pressed(event, space);
      if (key !== null && !event.repeat) onKey(key);
    },
    onKeyUp: (event: KeyboardEvent): void => {
      if (event.key === ' ') setSpace(false);
    },
    onBlur: (): void => setSpace(false),
  };
}

/** What a phrase would do now at the key target, again and again as the market moves. It sends nothing. */
export function Reading({ phrase }: { phrase: string }) {
  const target = useStore($target);
  const [words, setWords] = useState('');
  useEffect(() => {
    let gone = false;
    const look = async (): Promise<void> => {
      const read = await readOrder(phrase, target);
      if (!gone && read) setWords(readingWords(read));
    };
    void look();
    const timer = setInterval(() => void look(), READ_EVERY_MS);
    return () => {
      gone = true;
      clearInterval(timer);
    };
  }, [phrase, target]);
  return (
    <p className="truncate text-quiet" title={words}>
      {words}
    </p>
  );
}
