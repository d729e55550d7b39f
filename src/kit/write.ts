/** Writes an element's text in place: a text node that stays is cheaper than a new one. */
export function writeText(element: Element, text: string): void {
  const node = element.firstChild;
  if (node instanceof Text && node.nextSibling === null) {
    if (node.data !== text) node.data = text;
  } else if (element.textContent !== text) element.textContent = text;
}

/** Writes one of an element's `data-` attributes where it is another. */
export function writeData(element: HTMLElement, name: string, value: string): void {
  if (element.dataset[name] !== value) element.dataset[name] = value;
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
 * @param share 0 to 1 of the cell's width, drawn in steps of a fiftieth
 */
export function writeWash(cell: HTMLElement, side: 'bid' | 'ask', share: number): void {
  const size = `${Math.round(share * 50) * 2}% 100%`;
  if (cell.style.backgroundSize === size) return;
  cell.dataset['wash'] = side;
  cell.style.backgroundSize = size;
}
