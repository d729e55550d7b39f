import { lazy, type ComponentType, type LazyExoticComponent } from 'react';
import type { Settings } from '../workspace/settings.ts';

/** What a kind of pane is. Its commands are registered by its view, which knows what they act on. */
export interface PaneDefinition {
  /** What it is for, in one line. */
  readonly about: string;
  /** What its title line says besides its name: who can order says the account and the size too, who has words of its own puts them there. */
  readonly title: 'orders' | 'instrument' | 'selected' | 'words' | 'name';
  readonly settings: Settings;
  readonly view: LazyExoticComponent<ComponentType<{ id: string }>>;
}

type Loaded = Promise<{ readonly default: ComponentType<{ id: string }> }>;

/** A kind of pane; what draws it is loaded when the first is opened. */
export const definePane = (about: string, title: PaneDefinition['title'], settings: Settings, load: () => Loaded): PaneDefinition => ({
  about,
  title,
  settings,
  view: lazy(load),
});
