import type { APIRoute } from 'astro';
import { notFound } from './_problem.ts';

export const ALL: APIRoute = () => notFound();
