import { atom } from 'nanostores';
import type { ApiAlert } from './shapes.ts';
import { follow } from './stream.ts';

/** The user's alerts by id; null until they are known. */
export const $alerts = atom<Readonly<Record<string, ApiAlert>> | null>(null);

type Told = ApiAlert | { readonly id: string; readonly dropped: true };

/** Follows the alerts: call once. */
export const followAlerts = (): (() => void) =>
  follow<readonly ApiAlert[] | Told>('alerts', (data, snapshot) => {
    if (snapshot && Array.isArray(data)) {
      $alerts.set(Object.fromEntries((data as ApiAlert[]).map((alert) => [alert.id, alert])));
      return;
    }
    const told = data as Told;
    const { [told.id]: _before, ...rest } = $alerts.get() ?? {};
    $alerts.set('dropped' in told ? rest : { ...rest, [told.id]: told });
  });

export interface AlertFiring {
  readonly alert: ApiAlert;
  readonly seq: number;
  readonly time: string;
  readonly value: string | null;
  readonly text: string;
}

/** What the alerts have told, newest first, after a number. */
export const firingsAfter = (alerts: Readonly<Record<string, ApiAlert>> | null, seq: number): AlertFiring[] =>
  Object.values(alerts ?? {})
    .flatMap((alert) => alert.firings.filter((firing) => firing.seq > seq).map((firing) => ({ alert, ...firing })))
    .sort((a, b) => b.seq - a.seq);
