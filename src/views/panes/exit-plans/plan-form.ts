import { set, type FieldErrors, type Resolver } from 'react-hook-form';
import type { ExitPlanText, LegName } from '../../../core/exits/index.ts';
import { formatScaled, parseScaled } from '../../../core/number/index.ts';
import { shapeErrors } from '../../act/checked.tsx';
import { planOf } from '../../act/stave.ts';

export type LegText = NonNullable<ExitPlanText['steps'][number]['stop']>;

/** A plan as it is typed. */
export type PlanValues = Omit<ExitPlanText, 'name' | 'setup'> & { readonly name: string; readonly setup?: string | undefined };

export const MOST_STEPS = 5;

/** What a stop and a target begin with. */
export const firstLeg = (name: LegName): LegText =>
  name === 'stop' ? { by: 'ticks', value: '20', order: 'market' } : { by: 'ticks', value: '40', order: 'limit' };

export const NEW_PLAN: PlanValues = {
  name: '',
  setup: '',
  heldBy: 'venue',
  onSizeChange: 'follow',
  onMissedLevel: 'fire',
  steps: [{ share: '100', stop: firstLeg('stop'), target: firstLeg('target') }],
};

/** The body that what was typed stands for. */
export function bodyOf({ name, setup, heldBy, onSizeChange, onMissedLevel, steps }: PlanValues): PlanValues {
  return { name: name.trim(), setup: setup?.trim() || undefined, heldBy, onSizeChange, onMissedLevel, steps };
}

const DIGITS = 8;
const HUNDRED = 10n ** BigInt(DIGITS + 2);

/** What the steps before the last leave of 100; null where they leave nothing. What is no number counts as 0. */
export function restFor(steps: readonly { readonly share: string }[]): string | null {
  const rest = steps.slice(0, -1).reduce((left, { share }) => left - (parseScaled(share, DIGITS) ?? 0n), HUNDRED);
  return rest > 0n ? formatScaled(rest, DIGITS, 0) : null;
}

/** What the server's schema has against a plan; where its shape is right, what core has. */
export async function planProblems(body: unknown): Promise<readonly { readonly path: string; readonly message: string }[]> {
  const wrong = await shapeErrors('exitPlan', body);
  return wrong.length > 0 ? wrong : [...planOf(body as PlanValues).problems].map(([path, message]) => ({ path, message }));
}

/** What core has against a plan as it is typed, then what the server's schema has. */
export const checkPlan: Resolver<PlanValues> = async (values) => {
  const body = bodyOf(values);
  const read = [...planOf(body).problems].map(([path, message]) => ({ path, message }));
  const found = [...read, ...(await shapeErrors('exitPlan', body)).filter(({ path }) => read.length === 0 || !path.startsWith('/steps'))];
  if (found.length === 0) return { values, errors: {} };
  const errors: FieldErrors<PlanValues> = {};
  for (const { path, message } of found) set(errors, path === '/steps' ? 'steps.root' : path.slice(1).replaceAll('/', '.'), { type: 'plan', message });
  return { values: {}, errors };
};

/** All that is wrong, each with its place in words. */
export function problemsIn(errors: object, path = ''): { readonly path: string; readonly words: string }[] {
  return Object.entries(errors as Readonly<Record<string, unknown>>).flatMap(([key, error]) => {
    if (typeof error !== 'object' || error === null || key === 'ref') return [];
    const at = path === '' ? key : `${path}.${key}`;
    if (!('message' in error && typeof error.message === 'string')) return problemsIn(error, at);
    const place = at
      .replace(/^steps\.root$/, '')
      .replace(/^steps\.(\d)/, (_, n: string) => `step ${Number(n) + 1}`)
      .replaceAll('.', ' ');
    return [{ path: at, words: place === '' ? error.message : `${place}: ${error.message}` }];
  });
}
