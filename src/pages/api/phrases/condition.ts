import { endpoint, json, knownInstrument } from '../_endpoint.ts';
import { readCondition } from '../_phrases.ts';

export const ALL = endpoint('/api/phrases/condition', {
  POST: async (call) => {
    const { phrase, instrument } = call.body as { phrase: string; instrument?: string };
    const unknown = knownInstrument(call, instrument, '/instrument');
    if (unknown) return unknown;
    const read = await readCondition(call, phrase, instrument ?? null);
    if (!read.ok) return json(200, { ok: false, canonical: null, reading: null, error: read.error, value: null, parts: [] });
    const { canonical, reading, value, parts } = read.value;
    return json(200, { ok: true, canonical, reading, error: null, value, parts });
  },
});
