import { presentNewIssue } from '../../desk/backoffice/present.ts';
import { endpoint, json } from './_endpoint.ts';

export const ALL = endpoint('/api/new-issues', {
  GET: async ({ desk }) => {
    const issues = await desk.newIssues();
    return json(200, { items: issues.map((issue) => presentNewIssue(desk.instrument(issue.id), issue, desk.now())) });
  },
});
