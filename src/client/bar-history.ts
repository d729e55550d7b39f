/** Lines of a pane that the command bar remembers. */
export const KEPT_LINES = 8;

const lines = new Map<string, readonly string[]>();

/** What was last typed and taken in the command bar while a pane was active, newest first. */
export const linesBefore = (pane: string | null): readonly string[] => lines.get(pane ?? '') ?? [];

/** Remembers a line that something came of; the same line again only moves to the front. */
export function rememberLine(pane: string | null, text: string): void {
  const line = text.trim();
  if (line !== '') lines.set(pane ?? '', [line, ...linesBefore(pane).filter((one) => one !== line)].slice(0, KEPT_LINES));
}
