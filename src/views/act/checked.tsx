import type { ValidateFunction } from 'ajv';
import type { FieldErrors, FieldValues, Resolver } from 'react-hook-form';
import type { FormName } from '../../schemas/forms.ts';
import { errorsOf, type ShapeError } from '../../schemas/shape-errors.ts';

type Check = () => Promise<{ readonly default: ValidateFunction }>;

/** Each is fetched with the first form that needs it. */
const CHECKS: Readonly<Record<FormName, Check>> = {
  signIn: () => import('virtual:checks/signIn'),
  secondStep: () => import('virtual:checks/secondStep'),
  token: () => import('virtual:checks/token'),
  order: () => import('virtual:checks/order'),
  exitPlan: () => import('virtual:checks/exitPlan'),
  alert: () => import('virtual:checks/alert'),
  setup: () => import('virtual:checks/setup'),
  commission: () => import('virtual:checks/commission'),
  cashRequest: () => import('virtual:checks/cashRequest'),
  application: () => import('virtual:checks/application'),
  rules: () => import('virtual:checks/rules'),
  scan: () => import('virtual:checks/scan'),
  settings: () => import('virtual:checks/settings'),
};

/** What the server would find wrong in the shape of a body, with nobody asked. */
export async function shapeErrors(name: FormName, body: unknown): Promise<readonly ShapeError[]> {
  // Without the check the server is asked, as ever.
  const check = await CHECKS[name]().then(
    (module) => module.default,
    () => null,
  );
  return check && !check(body) ? errorsOf(check) : [];
}

/**
 * A form's resolver: the body that its values stand for is checked as the server checks it, with nobody asked.
 *
 * @param bodyOf the body of the form's values
 * @param fields where a part of the body is typed, by its path, if its field has another name
 */
export function checkedAs<V extends FieldValues>(
  name: FormName,
  bodyOf: (values: V) => unknown,
  fields: Readonly<Record<string, keyof V & string>> = {},
): Resolver<V> {
  return async (values) => {
    const found = await shapeErrors(name, bodyOf(values));
    if (found.length === 0) return { values, errors: {} };
    const errors = found.map(({ path, message }) => [fields[path] ?? path.split('/')[1] ?? 'root', { type: 'shape', message }]);
    return { values: {}, errors: Object.fromEntries(errors) as FieldErrors<V> };
  };
}

/** The first thing that is wrong in a form, in words; null where nothing is. `words` names its fields as they are labelled. */
export function wrongIn<V extends FieldValues>(errors: FieldErrors<V>, words: Partial<Record<keyof V, string>> = {}): string | null {
  const [first] = Object.entries(errors as Readonly<Record<string, { readonly message?: string }>>);
  return first ? `${words[first[0]] ?? first[0]} ${first[1].message ?? ''}` : null;
}

/** Says what is wrong in a form. */
export const Wrong = ({ children }: { children: string | null }) =>
  children === null ? null : (
    <p role="status" className="plate heather mt-1 w-full whitespace-normal">
      {children}
    </p>
  );
