declare module 'virtual:palette.css';

/** A check of `schemas/forms.ts`, made by `tools/checks.mjs`. */
declare module 'virtual:checks/*' {
  const check: import('ajv').ValidateFunction;
  export default check;
}
