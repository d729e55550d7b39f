import { later } from './later.ts';

/** Menus, popovers and dialogs: the window stands without them until one is opened. */
export const FLOATING = later(() => import('./Floating.tsx'));
