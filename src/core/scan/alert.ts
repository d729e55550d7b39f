export const ALERT_KINDS = ['price', 'condition', 'scan', 'order', 'risk', 'news'] as const;
export type AlertKind = (typeof ALERT_KINDS)[number];

export const ALERT_EVENTS = ['filled', 'rejected', 'canceled', 'blocked', 'plan-fired'] as const;
export type AlertEvent = (typeof ALERT_EVENTS)[number];

export const ALERT_STATES = ['waiting', 'snoozed', 'ended'] as const;
export type AlertState = (typeof ALERT_STATES)[number];

/** How an order that waits for a condition stands. */
export const WAITING_STATES = ['waiting', 'suspended', 'fired', 'rejected', 'canceled', 'expired'] as const;
export type WaitingState = (typeof WAITING_STATES)[number];

/** Why a scan ran. */
export const SCAN_CAUSES = ['asked', 'schedule', 'keep'] as const;
export type ScanCause = (typeof SCAN_CAUSES)[number];
