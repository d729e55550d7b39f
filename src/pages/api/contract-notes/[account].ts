import { homeVenue } from '../../../core/portfolio/index.ts';
import { contractNotes } from '../../../core/backoffice/index.ts';
import { presentNote } from '../../../desk/backoffice/present.ts';
import { contractNote } from '../../../schemas/backoffice.ts';
import { csv, endpoint, json } from '../_endpoint.ts';
import { notFound } from '../_problem.ts';
import { daysAsked } from '../_review.ts';

export const ALL = endpoint('/api/contract-notes/{account}', {
  GET: async (call) => {
    const account = call.parameter('account');
    if (!call.accounts.includes(account)) return notFound();
    const days = daysAsked(call, homeVenue(call.desk.account(account).terms));
    if (days instanceof Response) return days;
    const fills = await call.desk.listFills({ accounts: [account], limit: Infinity });
    const notes = contractNotes(fills, (id) => call.desk.instrument(id)).filter(({ day }) => day >= days.from && day <= days.to);
    if (call.query['format'] !== 'csv') return json(200, { items: notes.map(presentNote) });
    const columns = contractNote.required.filter((column) => column !== 'fills');
    return csv('contract-notes', columns, notes.map(presentNote));
  },
});
