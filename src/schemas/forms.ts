import { commissionRequest, secondStepEnd, signInRequest, tokenRequest } from './accounts.ts';
import { newApplication, newCashRequest } from './backoffice.ts';
import { newExitPlan } from './exits.ts';
import { newAlert, scanChange } from './finding.ts';
import { previewRequest } from './orders.ts';
import { setupChange } from './review.ts';
import { ruleTemplate } from './risk.ts';
import { settings } from './saved.ts';

/** The bodies that forms make, and files hold: checked before they are sent too, by checks that are compiled when Kavix is built. */
export const FORM_BODIES = {
  signIn: signInRequest,
  secondStep: secondStepEnd,
  token: tokenRequest,
  order: previewRequest,
  exitPlan: newExitPlan,
  alert: newAlert,
  setup: setupChange,
  commission: commissionRequest,
  cashRequest: newCashRequest,
  application: newApplication,
  rules: ruleTemplate,
  scan: scanChange,
  settings,
} as const;

export type FormName = keyof typeof FORM_BODIES;
