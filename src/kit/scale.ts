let factor = 1;

/**
 * Draws everything so many times as large as it is laid out: the window's content, and apart from it what floats,
 * which is placed by where things are on the screen.
 */
export function setScale(to: number): void {
  factor = to;
  document.documentElement.style.setProperty('--zoom', String(to));
}

/** A length on the screen in the pixels that things are laid out with. */
export const laidOut = (px: number): number => px / factor;

/** A place of the pointer within an element, in the pixels that it is laid out with. */
export function placeIn(element: Element, { clientX, clientY }: { clientX: number; clientY: number }): { x: number; y: number } {
  const { left, top } = element.getBoundingClientRect();
  return { x: laidOut(clientX - left), y: laidOut(clientY - top) };
}

/** The device's pixels to one that things are laid out with. */
export const devicePixels = (): number => window.devicePixelRatio * factor;
