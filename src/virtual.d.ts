declare module 'virtual:palette.css';

/** Checks of {@link ./schemas/forms.ts}, made by `tools/checks.mjs`. */
declare module 'virtual:checks' {
  type Check = import('ajv').ValidateFunction;
  const checks: Readonly<Record<import('./schemas/forms.ts').FormName, Check>>;
  export = checks;
}
