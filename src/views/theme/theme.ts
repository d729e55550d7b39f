import { atom } from 'nanostores';
import { PALETTES, STUDY_INKS, type StudyInk, type Theme, type Token } from './palette.ts';

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

/** The colour of an ink by its name, or of a colour the trader chose (`#rrggbb`). */
export const inkColour = (ink: string): string => (ink.startsWith('#') ? ink : (STUDY_INKS[$theme.get()][ink as StudyInk] ?? colour('ink')));

export const INK_NAMES = Object.keys(STUDY_INKS.night) as StudyInk[];
