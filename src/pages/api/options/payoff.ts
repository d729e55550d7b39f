import type { Instrument } from '../../../core/instrument/index.ts';
import { payoffAsked, type LegAsked } from '../../../desk/options.ts';
import { endpoint, json } from '../_endpoint.ts';
import { invalid, problem } from '../_problem.ts';

export const ALL = endpoint('/api/options/payoff', {
  POST: async (call) => {
    const { legs, at, volatilityShift = '0' } = call.body as { legs: readonly LegAsked[]; at?: string; volatilityShift?: string };
    const problems: { path: string; message: string }[] = [];
    let underlying: Instrument | undefined;
    legs.forEach((leg, i) => {
      const instrument = call.desk.market.find(leg.instrument);
      const of = instrument && (instrument.kind === 'option' ? call.desk.market.find(instrument.underlying ?? '') : instrument);
      if (!instrument || !of) problems.push({ path: `/legs/${i}/instrument`, message: `${leg.instrument} is not known` });
      else if (instrument.kind === 'inverse') problems.push({ path: `/legs/${i}/instrument`, message: 'an inverse contract has no straight payoff' });
      else if (underlying && underlying.id !== of.id)
        problems.push({ path: `/legs/${i}/instrument`, message: `is on ${of.id}, the legs before on ${underlying.id}` });
      else underlying = of;
      if (Number(leg.quantity) === 0) problems.push({ path: `/legs/${i}/quantity`, message: 'must not be 0' });
      if (Number(leg.price) < 0) problems.push({ path: `/legs/${i}/price`, message: 'must not be below 0' });
    });
    if (Math.abs(Number(volatilityShift)) > 100) problems.push({ path: '/volatilityShift', message: 'must be from -100 to 100' });
    if (problems.length > 0 || !underlying) return invalid(problems);
    const answer = await payoffAsked(call.desk, underlying, legs, at === undefined ? null : Date.parse(at), Number(volatilityShift));
    return answer ? json(200, answer) : problem(409, 'conflict', `${underlying.id} has no price yet.`);
  },
});
