import { presentClock } from '../../desk/present/index.ts';
import { endpoint, json } from './_endpoint.ts';
import { invalid, problem } from './_problem.ts';

const FURTHEST_MS = 400 * 86_400_000;

export const ALL = endpoint('/api/clock', {
  GET: async (call) => json(200, presentClock(await call.desk.clockNow())),
  POST: async (call) => {
    const { speed, advanceBy, advanceTo } = call.body as { speed?: number; advanceBy?: number; advanceTo?: string };
    const now = await call.desk.clockNow();
    if (speed !== undefined) {
      if (now.mode !== 'live') return problem(409, 'conflict', 'The clock is manual: it moves by advanceBy and advanceTo only.');
      return json(200, presentClock(await call.desk.setSpeed(speed)));
    }
    const to = advanceTo !== undefined ? Date.parse(advanceTo) : now.time + (advanceBy ?? 0);
    const path = advanceTo !== undefined ? '/advanceTo' : '/advanceBy';
    if (to < now.time) return invalid([{ path, message: `is before the market's time, ${new Date(now.time).toISOString()}` }]);
    if (to > now.time + FURTHEST_MS) return invalid([{ path, message: 'is more than 400 days ahead' }]);
    return json(200, presentClock(await call.desk.advance(to)));
  },
});
