import { presentRun } from '../../desk/present/index.ts';
import type { Scan, ScanTerms } from '../../desk/finding/things.ts';
import { isGivenName } from '../../schemas/formats.ts';
import { json, type Call } from './_endpoint.ts';
import { phraseProblem, readCondition } from './_phrases.ts';
import { invalid, problem } from './_problem.ts';
import { missing, nameIn } from './_saved.ts';

const KIND = 'scan';

export interface ScanBody {
  readonly name?: string;
  readonly notes?: string;
  readonly universe: Scan['universe'];
  readonly join?: Scan['join'];
  readonly lines: Scan['lines'];
  readonly keep?: boolean;
  readonly schedule?: Scan['schedule'];
  readonly version?: number;
}

/** What a body says, with its phrases in their canonical form; the problems where it can't be. */
export async function readScan(call: Call, body: ScanBody, name: string | null): Promise<ScanTerms | Response> {
  const problems: { path: string; message: string }[] = [];
  const lines: { phrase: string; on: boolean }[] = [];
  const once = !(body.keep ?? false);
  for (const [i, { phrase, on }] of body.lines.entries()) {
    const path = `/lines/${i}/phrase`;
    const read = await readCondition(call, phrase, null);
    if (!read.ok) problems.push(phraseProblem(path, read.error));
    else if (once && read.value.passing) {
      const message = 'an event without bars is judged from one look to the next; a scan that is run once has one look only';
      problems.push(phraseProblem(path, { message, ...read.value.passing, expected: ['an event with on 1m', 'a scan that is kept running'] }));
    } else lines.push({ phrase: read.value.canonical, on });
  }
  problems.push(...(await call.finding.scans.problems(call.user, body.universe, name)));
  return problems.length > 0 ? invalid(problems) : { universe: body.universe, join: body.join ?? 'all', lines };
}

export async function savedScans(call: Call): Promise<Scan[]> {
  const names = await call.saved.list(call.user, KIND);
  const found = await Promise.all(names.map(({ name }) => call.saved.get(call.user, KIND, name)));
  return found.flatMap((one) => (one ? [one.document as Scan] : []));
}

export async function savedScan(call: Call): Promise<{ scan: Scan; revision: string } | Response> {
  const name = nameIn(call);
  const found = isGivenName(name) ? await call.saved.get(call.user, KIND, name) : null;
  return found ? { scan: found.document as Scan, revision: found.revision } : missing(KIND, name);
}

/** Saves a scan under a name and follows it, unless something else is there than expected. */
export async function keepScan(call: Call, name: string, body: ScanBody, version: number, expected: { revision: string } | 'nothing'): Promise<Response> {
  const terms = await readScan(call, body, name);
  if (terms instanceof Response) return terms;
  const { notes = '', keep = false, schedule = null } = body;
  const scan: Scan = { name, notes, ...terms, keep, schedule, version };
  const done = await call.saved.put(call.user, KIND, name, scan, Date.now(), expected);
  if (done.kind === 'conflict')
    return problem(409, 'conflict', expected === 'nothing' ? `There is a scan named ${name} already.` : 'It was changed since it was read; read it again.');
  await call.finding.scans.follow(call.user, scan);
  return version > 1 ? json(200, scan) : json(201, scan, { location: `/api/scans/${encodeURIComponent(name)}` });
}

export async function dropScan(call: Call): Promise<Response> {
  const name = nameIn(call);
  if (!isGivenName(name) || !(await call.saved.drop(call.user, KIND, name))) return missing(KIND, name);
  await call.finding.scans.unfollow(call.user, name);
  return new Response(null, { status: 204 });
}

export async function runAnswer(call: Call, name: string | null, terms: ScanTerms): Promise<Response> {
  const { progress } = call.query;
  const run = await call.finding.scans.run(call.user, name, terms, progress === undefined ? null : String(progress));
  return run ? json(200, presentRun(run)) : problem(409, 'conflict', 'The scan was stopped.');
}
