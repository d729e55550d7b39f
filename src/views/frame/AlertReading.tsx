import { Command } from 'cmdk';
import { answer } from '../../client/answers.ts';
import type { AlertLine } from '../../client/alert-line.ts';
import { noteUndoable } from '../../client/undo.ts';
import { readConditionWords } from '../../core/language/index.ts';
import { MENU_ITEM } from '../../kit/Menu.tsx';
import { problemWords, request } from '../../live/index.ts';
import { isInsertable, mended } from '../act/mend.ts';
import { readCondition } from '../act/phrase.ts';

/** Makes the alert that a line asks for; Ctrl Z takes it back. What becomes of it is said in the pane. */
async function makeAlert(pane: string, instrument: string, line: AlertLine): Promise<void> {
  const of = line.price ? { kind: 'price', price: line.of, direction: 'either' } : { kind: 'condition', phrase: line.of };
  const done = await request('POST /api/alerts', { body: { ...of, instrument, fires: 'once', sound: 'bell' } });
  if (!done.ok) return answer(pane, 'refused', problemWords(done.problem));
  const { id } = done.value;
  noteUndoable(`the alert on ${instrument}`, async () => void (await request('DELETE /api/alerts/{id}', { path: { id } })));
  answer(pane, 'done', `tells when ${instrument}: ${line.of}`);
}

interface Props {
  readonly line: AlertLine;
  /** What the active pane shows: the alert is on that. */
  readonly on: { readonly pane: string; readonly instrument: string } | null;
  readonly onDone: () => void;
  readonly onMend: (of: string) => void;
}

/** What a line in the command bar would tell of, in words, or what is wrong with it and could stand there. */
export function AlertReading({ line, on, onDone, onMend }: Props) {
  const read = line.price ? null : readCondition(line.of);
  const error = read && !read.ok ? read.error : null;
  const what = error?.message ?? (read?.ok ? readConditionWords(read.value.condition) : `a trade at ${line.of}, from either side`);
  const words = on === null ? 'choose a pane with an instrument first: the alert is on that' : error ? what : `tells once when ${on.instrument}: ${what}`;
  return (
    <Command.Group heading={<span className="px-2 text-quiet">Alert</span>}>
      <Command.Item
        value="alert"
        className={`${MENU_ITEM} whitespace-normal`}
        onSelect={() => {
          if (on === null || error) return;
          void makeAlert(on.pane, on.instrument, line);
          onDone();
        }}
      >
        <span className="text-ink">{words}</span>
      </Command.Item>
      {error &&
        error.expected.filter(isInsertable).map((one) => (
          <Command.Item key={one} value={`put in ${one}`} className={MENU_ITEM} onSelect={() => onMend(mended(line.of, error, one))}>
            <span className="text-ink">{one}</span>
            <span className="ml-auto text-quiet">could stand there</span>
          </Command.Item>
        ))}
    </Command.Group>
  );
}
