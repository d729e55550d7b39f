import { atom } from 'nanostores';
import { setScale } from '../../kit/scale.ts';
import { $settings, $settingsState, changeSettings } from '../../client/settings.ts';
import { PALETTES, STUDY_INKS, type StudyInk, type Theme, type Token } from './palette.ts';

const KEY = 'kavix.theme';

export const $theme = atom<Theme>('night');

export function loadTheme(): void {
  show(localStorage.getItem(KEY) === 'day' ? 'day' : 'night');
}

/** The theme and the scale are those of the settings once these are known. Call once. */
export function followSettings(): void {
  $settings.subscribe(({ theme, scale }) => {
    if ($settingsState.get() !== 'known') return;
    if (theme !== $theme.get()) show(theme);
    setScale(scale / 100);
  });
}

/** Chooses a theme for all of the user's windows. */
export function setTheme(theme: Theme): void {
  show(theme);
  changeSettings({ theme });
}

function show(theme: Theme): void {
  localStorage.setItem(KEY, theme);
  document.documentElement.dataset['theme'] = theme;
  $theme.set(theme);
}

/** A token's colour in the present theme, for canvases. */
export const colour = (token: Token): string => PALETTES[$theme.get()][token];

/** The colour of an ink by its name, or of a colour the trader chose (`#rrggbb`). */
export const inkColour = (ink: string): string => (ink.startsWith('#') ? ink : (STUDY_INKS[$theme.get()][ink as StudyInk] ?? colour('ink')));

export const INK_NAMES = Object.keys(STUDY_INKS.night) as StudyInk[];
