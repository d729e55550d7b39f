import { useEffect, useRef, useState } from 'react';
import { later, usePart } from '../../kit/later.ts';
import { useFrameCommands } from '../act/keys.ts';
import { BAR_FIELD, BAR_PLACEHOLDER, BarWord } from './bar-look.tsx';

const BAR = later(() => import('./CommandBar.tsx'));

/** The command bar's place. `/` brings the caret here; what is typed before the bar itself is there goes over to it. */
export function Bar({ alone = false }: { alone?: boolean }) {
  const [text, setText] = useState('');
  const [open, setOpen] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const bar = usePart(BAR, open);
  useFrameCommands([{ keys: ['/'], words: BAR_PLACEHOLDER, run: () => input.current?.focus() }]);
  useEffect(() => {
    const onFind = (event: Event): void => {
      setText((event as CustomEvent<string>).detail);
      setOpen(true);
      input.current?.focus();
    };
    window.addEventListener('kavix-find', onFind);
    return () => window.removeEventListener('kavix-find', onFind);
  }, []);
  useEffect(() => {
    if (open) input.current?.focus();
  }, [open, bar]);
  if (bar) return <bar.CommandBar {...{ alone, text, setText, open, setOpen, input }} />;
  return (
    <div className="relative w-[260px]">
      <input
        ref={input}
        className={BAR_FIELD}
        placeholder={BAR_PLACEHOLDER}
        aria-label="Command bar"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
      />
      <BarWord>/</BarWord>
    </div>
  );
}
