import { lazy, type ComponentType, type LazyExoticComponent } from 'react';
import type { PageName } from './route.ts';

interface PageDefinition {
  readonly title: string;
  /** What it is for, in one line. */
  readonly about: string;
  readonly view: LazyExoticComponent<ComponentType>;
}

/** Every page; what draws it is loaded when it is first opened. */
export const PAGES: Readonly<Record<PageName, PageDefinition>> = {
  sheet: { title: 'Day sheet', about: 'what a day begins with, and what it leaves', view: lazy(() => import('./sheet/DaySheet.tsx')) },
  review: { title: 'Review', about: 'what it made, what it cost, day, week and setups', view: lazy(() => import('./review/ReviewPage.tsx')) },
  accounts: { title: 'Accounts', about: 'money, holdings, lots, statements, withdrawals', view: lazy(() => import('./accounts/AccountsPage.tsx')) },
  risk: { title: 'Risk', about: 'rules, locks, what they have come to', view: lazy(() => import('./risk/RiskPage.tsx')) },
  settings: { title: 'Settings', about: 'look, sending, sizes, sounds, who is signed in', view: lazy(() => import('./settings/SettingsPage.tsx')) },
};
