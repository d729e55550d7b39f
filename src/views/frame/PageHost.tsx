import { useStore } from '@nanostores/react';
import { Suspense, useEffect, useRef } from 'react';
import { Button } from '../../kit/Button.tsx';
import { useFrameCommands } from '../act/keys.ts';
import { PAGES } from '../pages/index.ts';
import { $page, showPage } from '../pages/route.ts';

/** The page over the workspace, which stays as it is beneath: `Esc` returns to it. */
export function PageHost() {
  const page = useStore($page);
  const box = useRef<HTMLElement>(null);
  useFrameCommands(page === null ? [] : [{ keys: ['Escape'], words: 'back to the workspace', run: () => showPage(null) }]);
  useEffect(() => {
    if (page === null) return undefined;
    const before = document.activeElement;
    box.current?.focus();
    return () => {
      if (before instanceof HTMLElement) before.focus();
    };
  }, [page]);
  if (page === null) return null;
  const { title, view: View } = PAGES[page];
  return (
    <section
      ref={box}
      tabIndex={-1}
      aria-labelledby="page-title"
      className="absolute inset-0 z-30 flex flex-col bg-ground px-2 pb-2 outline-none"
      data-page={page}
    >
      <header className="flex h-[32px] shrink-0 items-center gap-4">
        <h1 id="page-title" className="text-[16px] font-semibold">
          {title}
        </h1>
        <Button onClick={() => showPage(null)}>
          Back to the workspace <kbd className="text-quiet">Esc</kbd>
        </Button>
      </header>
      <div className="scroll scroll-pt-[56px] min-h-0 flex-1 border border-hair bg-pane p-4">
        <Suspense fallback={<div className="skeleton h-full" role="status" aria-label={`Loading ${title}`} />}>
          <View />
        </Suspense>
      </div>
    </section>
  );
}
