import { openApi } from '../../schemas/openapi.ts';
import { endpoint, json } from './_endpoint.ts';

export const ALL = endpoint('/api/openapi.json', { GET: () => json(200, openApi()) });
