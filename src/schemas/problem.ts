import { int, list, text } from './values.ts';

/** RFC 9457, with what the kinds of problem add. */
export const problem = {
  type: 'object',
  properties: {
    type: text,
    title: text,
    status: int,
    detail: text,
    errors: list({ type: 'object', properties: { path: text, message: text, nearest: list(text) }, required: ['path', 'message'] }),
    suggestion: { type: 'object' },
    state: text,
    needs: text,
    rule: text,
    rules: list(text),
  },
  required: ['type', 'title', 'status', 'detail'],
} as const;
