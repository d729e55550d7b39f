/** Writes an element's text in place: a text node that stays is cheaper than a new one. */
export function writeText(element: Element, text: string): void {
  const node = element.firstChild;
  if (node instanceof Text && node.nextSibling === null) {
    if (node.data !== text) node.data = text;
  } else if (element.textContent !== text) element.textContent = text;
}

/** Writes an element's class where it is another. */
export function writeClass(element: Element, name: string): void {
  if (element.className !== name) element.className = name;
}

/** Writes an element's tooltip where it is another. */
export function writeTitle(element: HTMLElement, title: string): void {
  if (element.title !== title) element.title = title;
}

/**
 * Washes a cell with a side's colour from its inner edge outward.
 *
 * @param share 0 to 1 of the cell's width
 */
export function writeWash(cell: HTMLElement, side: 'bid' | 'ask', share: number): void {
  const percent = String(Math.round(share * 100));
  if (cell.dataset['wash'] === percent) return;
  cell.dataset['wash'] = percent;
  const wash = `color-mix(in srgb, var(--${side === 'bid' ? 'weed' : 'copper'}) 20%, transparent)`;
  cell.style.background = percent === '0' ? '' : `linear-gradient(to ${side === 'bid' ? 'left' : 'right'}, ${wash} ${percent}%, transparent ${percent}%)`;
}
