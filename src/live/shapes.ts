import type * as accounts from '../schemas/accounts.ts';
import type * as exits from '../schemas/exits.ts';
import type * as market from '../schemas/market.ts';
import type * as orders from '../schemas/orders.ts';
import type * as risk from '../schemas/risk.ts';
import type { ShapeOf } from '../schemas/values.ts';

/** What the API answers, by the schemas it is described with. */
export type ApiOrder = ShapeOf<typeof orders.order>;
export type ApiFill = ShapeOf<typeof orders.fill>;
export type ApiPlan = ShapeOf<typeof exits.exitPlan>;
export type ApiRunningPlan = ShapeOf<typeof exits.runningPlan>;
export type ApiRisk = ShapeOf<typeof risk.riskState>;
export type ApiRules = ShapeOf<typeof risk.riskRules>;
export type ApiPreview = ShapeOf<typeof orders.preview>;
export type ApiFlattened = ShapeOf<typeof orders.flattened>;
export type ApiQuote = ShapeOf<typeof market.quote>;
export type ApiDepth = ShapeOf<typeof market.depth>;
export type ApiTrade = ShapeOf<typeof market.trade>;
export type ApiNews = ShapeOf<typeof market.news>;
export type ApiBar = ShapeOf<typeof market.bar>;
export type ApiClock = ShapeOf<typeof market.clock>;
export type ApiLiveList = ShapeOf<typeof market.liveList>;
export type ApiLink = ShapeOf<typeof market.link>;
export type ApiInstrument = ShapeOf<typeof market.instrument>;
export type ApiPosition = ShapeOf<typeof accounts.position>;
export type ApiActivity = ShapeOf<typeof accounts.activity>;
export type ApiAccount = ShapeOf<typeof accounts.account>;
export type ApiSession = ShapeOf<typeof accounts.session>;
