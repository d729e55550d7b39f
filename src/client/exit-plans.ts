import { shared } from '../live/index.ts';

/** The exit plan on the plate, by account and instrument: never carried over to another. */
export const $platePlans = shared<Readonly<Record<string, string>>>('plate-plans', {});

const keyOf = (account: string, instrument: string): string => `${account} ${instrument}`;

/** The saved plan that goes on every entry of an instrument in an account; null where none does. */
export const planFor = (account: string, instrument: string): string | null => $platePlans.get()[keyOf(account, instrument)] ?? null;

export function setPlanFor(account: string, instrument: string, name: string | null): void {
  const { [keyOf(account, instrument)]: _before, ...rest } = $platePlans.get();
  $platePlans.set(name === null ? rest : { ...rest, [keyOf(account, instrument)]: name });
}
