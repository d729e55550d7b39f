import type { InstrumentKind, VenueId } from '../../../core/instrument/index.ts';
import { LIVE_LISTS, liveList } from '../../../core/market/index.ts';
import { isoTime, presentLiveRow } from '../../../desk/present/index.ts';
import { endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';

const USUAL_ROWS = 50;
const number = (text: string | number | undefined): number | undefined => (text === undefined ? undefined : Number(text));

export const ALL = endpoint('/api/live-lists/{name}', {
  GET: async (call) => {
    const name = LIVE_LISTS.find((one) => one === call.parameter('name'));
    if (!name) return notFound();
    const { desk } = call;
    const { venue, kind, sector, leastPrice, leastVolume, limit } = call.query;
    const filter = {
      venue: venue as VenueId | undefined,
      kind: kind as InstrumentKind | undefined,
      sector: sector === undefined ? undefined : String(sector),
      leastPrice: number(leastPrice),
      leastVolume: number(leastVolume),
    };
    const figures = await desk.survey();
    const rows = liveList(name, figures, (id) => desk.instrument(id), filter, desk.now(), Number(limit ?? USUAL_ROWS));
    return json(200, {
      name,
      time: isoTime(desk.now()),
      counted: figures.length,
      items: rows.map((row) => presentLiveRow(desk.instrument(row.figures.instrument), name, row)),
    });
  },
});
