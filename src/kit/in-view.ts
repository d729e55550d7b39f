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
