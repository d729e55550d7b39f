import { map } from 'nanostores';

/** What became of the last thing done in a pane. */
export interface AnswerLine {
  readonly text: string;
  /** What was done goes after 4 s; refusals, unknowns and what was found out about these stay until read. */
  readonly kind: 'done' | 'refused' | 'unknown' | 'found';
  readonly at: number;
}

const SHOWN_MS = 4000;

export const $answers = map<Record<string, AnswerLine | undefined>>({});

export function answer(pane: string, kind: AnswerLine['kind'], text: string): void {
  const line = { text, kind, at: performance.now() };
  $answers.setKey(pane, line);
  if (kind === 'done') setTimeout(() => $answers.get()[pane] === line && $answers.setKey(pane, undefined), SHOWN_MS);
}

export const readAnswer = (pane: string): void => $answers.setKey(pane, undefined);
