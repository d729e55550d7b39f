import { useEffect, useRef } from 'react';

/** What is dragged goes back where it was: by Esc, and when the window is left. */
export function usePutBack(back: () => void): void {
  const newest = useRef(back);
  newest.current = back;
  useEffect(() => {
    const away = (): void => newest.current();
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') away();
    };
    window.addEventListener('blur', away);
    window.addEventListener('keydown', onKey);
    return () => {
      window.removeEventListener('blur', away);
      window.removeEventListener('keydown', onKey);
    };
  }, []);
}
