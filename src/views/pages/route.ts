import { atom } from 'nanostores';

/** The pages besides the workspace, by the names in their addresses. */
export const PAGE_NAMES = ['sheet', 'review', 'accounts', 'risk', 'settings'] as const;
export type PageName = (typeof PAGE_NAMES)[number];

const inAddress = (): PageName | null => PAGE_NAMES.find((name) => `#${name}` === location.hash) ?? null;

/** The page over the workspace; null while the workspace itself is shown. */
export const $page = atom<PageName | null>(null);

/** Follows the address: back and forward go through pages. Call once. */
export function followAddress(): void {
  const read = (): void => $page.set(inAddress());
  window.addEventListener('popstate', read);
  read();
}

/** Shows a page, or with null the workspace as it was left. */
export function showPage(name: PageName | null): void {
  if (name === $page.get()) return;
  history.pushState(null, '', name === null ? location.pathname : `#${name}`);
  $page.set(name);
}
