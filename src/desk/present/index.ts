/** How everything looks outside: decimal strings and ISO times, as the API says. */
export { presentAlert, presentRun, presentWaiting } from './finding.ts';
export * from './accounts.ts';
export * from './market.ts';
export * from './orders.ts';
export * from './plans.ts';
export * from './risk.ts';
export { formatHalves, isoOrNull, isoTime } from './text.ts';
