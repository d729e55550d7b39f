import { shared, type ApiRunningPlan } from '../live/index.ts';

/** The exit plan on the plate, by account and instrument: never carried over to another. */
export const $platePlans = shared<Readonly<Record<string, string>>>('plate-plans', {});

const keyOf = (account: string, instrument: string): string => `${account} ${instrument}`;

/** The saved plan that goes on every entry of an instrument in an account; null where none does. */
export const planFor = (account: string, instrument: string): string | null => $platePlans.get()[keyOf(account, instrument)] ?? null;

export function setPlanFor(account: string, instrument: string, name: string | null): void {
  const { [keyOf(account, instrument)]: _before, ...rest } = $platePlans.get();
  $platePlans.set(name === null ? rest : { ...rest, [keyOf(account, instrument)]: name });
}

/** An exit that waits here: no order stands for it before it fires. */
export interface HereLeg {
  readonly key: string;
  readonly plan: Pick<ApiRunningPlan, 'id' | 'account' | 'instrument'>;
  /** Counted from 0. */
  readonly step: number;
  readonly name: 'stop' | 'target';
  readonly price: string;
  readonly quantity: string;
  readonly suspended: boolean;
}

/** The legs held here that wait in an account's instrument, of all plans. */
export function hereLegs(plans: Iterable<ApiRunningPlan>, account: string, instrument: string): HereLeg[] {
  return [...plans].flatMap((plan) => {
    if (plan.account !== account || plan.instrument !== instrument || plan.heldBy !== 'here') return [];
    if (plan.state !== 'armed' && plan.state !== 'suspended' && plan.state !== 'asking') return [];
    return plan.steps.flatMap((step, i) =>
      (['stop', 'target'] as const).flatMap((name): HereLeg[] => {
        const leg = step[name];
        if (step.state !== 'armed' || leg === null || leg.price === null || leg.orderId !== null) return [];
        const quantity = String(Number((Number(step.quantity) - Number(step.closedQuantity)).toFixed(8)));
        return [{ key: `${plan.id} ${i} ${name}`, plan, step: i, name, price: leg.price, quantity, suspended: plan.state !== 'armed' }];
      }),
    );
  });
}
