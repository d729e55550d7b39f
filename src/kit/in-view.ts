import { paintNoMore, paintSoon } from './pace.ts';

/** Rows far down a list are written when they are scrolled to, not with every change of the market. */
const listeners = new WeakMap<Element, (is: boolean) => void>();
let observer: IntersectionObserver | null = null;

/**
 * Hears when an element comes into view and leaves it.
 *
 * @returns ends it
 */
export function followInView(element: Element, heard: (is: boolean) => void): () => void {
  observer ??= new IntersectionObserver((entries) => {
    for (const { target, isIntersecting } of entries) listeners.get(target)?.(isIntersecting);
  });
  listeners.set(element, heard);
  observer.observe(element);
  return () => {
    listeners.delete(element);
    observer?.unobserve(element);
  };
}

/**
 * Writes an element's newest state while it is in view: paced with all panes, at once when it comes into view.
 *
 * @returns how to hand it a newer state, and how to end it
 */
export function paintInView<T>(element: Element, write: (state: T) => void): { next: (state: T) => void; stop: () => void } {
  let newest: { readonly state: T } | null = null;
  let inView = false;
  const paint = (): void => {
    if (newest) write(newest.state);
    newest = null;
  };
  const stop = followInView(element, (is) => {
    inView = is;
    if (is) paint();
  });
  return {
    next: (state) => {
      newest = { state };
      if (inView) paintSoon(element, paint);
    },
    stop: () => {
      stop();
      paintNoMore(element);
    },
  };
}
