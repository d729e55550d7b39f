import type { FieldErrors, FieldValues, Resolver } from 'react-hook-form';
import { later } from '../../kit/later.ts';
import type { FormName } from '../../schemas/forms.ts';
import { errorsOf } from '../../schemas/shape-errors.ts';

const CHECKS = later(() => import('virtual:checks'));

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
    const check = (await CHECKS.fetch())?.[name];
    const found = check && !check(bodyOf(values)) ? errorsOf(check) : [];
    if (found.length === 0) return { values, errors: {} };
    const errors = found.map(({ path, message }) => [fields[path] ?? path.split('/')[1] ?? 'root', { type: 'shape', message }]);
    return { values: {}, errors: Object.fromEntries(errors) as FieldErrors<V> };
  };
}

/** The first thing that is wrong in a form, in words; null where nothing is. `words` names its fields as they are labelled. */
export function wrongIn<V extends FieldValues>(errors: FieldErrors<V>, words: Partial<Record<keyof V, string>> = {}): string | null {
  const [first] = Object.entries(errors);
  if (!first) return null;
  return `${words[first[0]] ?? first[0]} ${String(first[1]?.message)}`;
}

/** Says what is wrong in a form. */
export const Wrong = ({ children }: { children: string | null }) =>
  children === null ? null : (
    <p role="status" className="plate heather mt-1 w-full whitespace-normal">
      {children}
    </p>
  );
