import type { APIRoute } from 'astro';
import { running } from '../../desk/running.ts';
import { methodOf } from './_body.ts';
import { json } from './_endpoint.ts';
import { problem } from './_problem.ts';

export const ALL: APIRoute = (context) => {
  if (!['GET', 'HEAD'].includes(methodOf(context))) return problem(405, 'validation', 'Only GET is possible here.', {}, { allow: 'GET' });
  return running() ? json(200, { ready: true }) : problem(503, 'unavailable', 'Kavix is starting.');
};
