import { atom } from 'nanostores';
import { PALETTES, type Theme, type Token } from './palette.ts';

const KEY = 'kavix.theme';

export const $theme = atom<Theme>('night');

export function loadTheme(): void {
  setTheme(localStorage.getItem(KEY) === 'day' ? 'day' : 'night');
}

export function setTheme(theme: Theme): void {
  localStorage.setItem(KEY, theme);
  document.documentElement.dataset['theme'] = theme;
  $theme.set(theme);
}

/** A token's colour in the present theme, for canvases. */
export const colour = (token: Token): string => PALETTES[$theme.get()][token];
