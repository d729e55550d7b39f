import { useStore } from '@nanostores/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { answer } from '../../../client/answers.ts';
import { readShaped } from '../../../client/json-text.ts';
import { noteUndoable } from '../../../client/undo.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { clockText } from '../../../kit/clock.ts';
import { Toggle } from '../../../kit/Field.tsx';
import { Menu, MenuItem, MenuLabel } from '../../../kit/Menu.tsx';
import { Popover } from '../../../kit/Popover.tsx';
import { follow, problemWords, request } from '../../../live/index.ts';
import { shapeErrors } from '../../act/checked.tsx';
import { readCondition } from '../../act/phrase.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { $panes, setPaneSetting, settingOf } from '../../workspace/panes.ts';
import {
  EMPTY,
  bodyOf,
  draftOf,
  line,
  savedBody,
  scheduleWords,
  takenDraft,
  textOf,
  textToTake,
  type ApiScan,
  type ApiScanResult,
  type ScanDraft,
} from './draft.ts';
import { LineBuilder } from './LineBuilder.tsx';
import { SAMPLES } from './samples.ts';
import { ScanLines } from './ScanLines.tsx';
import { ScanResults } from './ScanResults.tsx';
import { UniverseButton } from './UniverseButton.tsx';

const RUN_WITHIN_MS = 60_000;
const PROGRESS_EVERY_MS = 300;

/** Looks through a universe by conditions that anybody can read; what is kept running goes on without a window. */
export default function ScannerPane({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  const name = settingOf<string>(pane, 'scan', '');
  const saved = useAsked('GET /api/scans', {}, { everyMs: 10_000 });
  const [draft, setDraft] = useState<ScanDraft>(EMPTY);
  const [running, setRunning] = useState<string | null>(null);
  const [asked, setAsked] = useState<{ result: ApiScanResult; lines: readonly string[] } | null>(null);
  const [shown, setShown] = useState<string | null>(null);
  const known = saved.data?.items.find((scan) => scan.name === name);
  /** What the draft began as: it is changed where it is no longer that. */
  const stood = useRef(textOf(EMPTY));
  // The scan that the pane was left with, and every newer version of it; what is typed and not saved stays.
  useEffect(() => {
    if (!known) return;
    const typed = draft.name === known.name && textOf(draft) !== stood.current;
    if (typed) return answer(id, 'refused', `${known.name} was changed elsewhere; what is typed here stays. Choose it again to have it as it is`);
    stood.current = textOf(draftOf(known));
    setDraft(draftOf(known));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only another scan, or another version, takes the place of what is shown
  }, [known?.name, known?.version]);
  const history = useAsked('GET /api/scans/{name}/results', { path: { name } }, { when: name !== '', everyMs: 5000 });
  useEffect(() => (name === '' ? undefined : follow(`scan:${name}`, () => void askAgain('GET /api/scans/{name}/results'))), [name]);

  const change = (to: Partial<ScanDraft>): void => setDraft((before) => ({ ...before, ...to }));
  const body = useMemo(() => bodyOf(draft), [draft]);
  const readable = body.lines.length > 0 && body.lines.every(({ phrase }) => readCondition(phrase).ok);
  const isSaved = known !== undefined && textOf(draft) === textOf(draftOf(known));

  const open = (next: ScanDraft): void => {
    stood.current = textOf(next);
    setDraft(next);
    setAsked(null);
    setShown(null);
    setPaneSetting(id, 'scan', next.version === 0 ? '' : next.name);
  };
  const run = async (): Promise<void> => {
    if (!readable || running !== null) return;
    const progress = `scan-${Date.now().toString(36)}`;
    setRunning(progress);
    const done = isSaved
      ? await request('POST /api/scans/{name}/run', { path: { name }, query: { progress }, deadlineMs: RUN_WITHIN_MS })
      : await request('POST /api/scan', { body, query: { progress }, deadlineMs: RUN_WITHIN_MS });
    setRunning(null);
    if (!done.ok) return answer(id, 'refused', problemWords(done.problem));
    setAsked({ result: done.value, lines: body.lines.map(({ phrase }) => phrase) });
    setShown(null);
    if (isSaved) void askAgain('GET /api/scans/{name}/results');
  };
  const save = async (as: ScanDraft): Promise<void> => {
    const done =
      as.version === 0
        ? await request('POST /api/scans', { body: { name: as.name, ...savedBody(as) } })
        : await request('PUT /api/scans/{name}', { path: { name: as.name }, body: { ...savedBody(as), version: as.version } });
    if (!done.ok) return answer(id, 'refused', problemWords(done.problem));
    stood.current = textOf(draftOf(done.value));
    setDraft(draftOf(done.value));
    await askAgain('GET /api/scans');
    setPaneSetting(id, 'scan', done.value.name);
    answer(id, 'done', `${done.value.name} is saved${done.value.keep ? ' and runs with no window open' : ''}`);
  };
  const drop = async (): Promise<void> => {
    const done = await request('DELETE /api/scans/{name}', { path: { name } });
    if (!done.ok) return answer(id, 'refused', problemWords(done.problem));
    const gone = known;
    if (gone)
      noteUndoable(`the scan ${name}`, async () => {
        await request('POST /api/scans', { body: { name: gone.name, ...savedBody(draftOf(gone)) } });
        await askAgain('GET /api/scans');
        setPaneSetting(id, 'scan', gone.name);
      });
    open(EMPTY);
    await askAgain('GET /api/scans');
  };

  const runs = name === '' ? [] : (history.data?.items ?? []);
  const chosen = runs.find((one) => one.id === shown) ?? null;
  const newest = runs[runs.length - 1] ?? null;
  // What was asked for stays until something newer is found.
  const latest = asked && (newest === null || asked.result.at > newest.at) ? asked.result : newest;
  const result = chosen ?? latest;
  const at = result ? runs.findIndex((one) => one.id === result.id) : -1;
  const before = at > 0 ? (runs[at - 1] ?? null) : null;
  const phrases = asked && result === asked.result ? asked.lines : body.lines.map(({ phrase }) => phrase);
  const counts = useMemo(() => {
    const withText = draft.lines.filter(({ phrase }) => phrase.trim() !== '');
    return new Map(withText.flatMap((one, k) => (result?.lines[k] ? [[one.id, result.lines[k]] as const] : [])));
  }, [draft.lines, result]);

  return (
    <div className="flex h-full">
      <section className="scroll flex w-[44%] min-w-[300px] max-w-[520px] shrink-0 flex-col gap-2 border-r border-hair px-2 py-1" aria-label="The scan">
        <div className="flex items-center gap-1">
          <Choice
            label="Scan"
            className="min-w-0 flex-1"
            value={name}
            options={[
              { value: '', words: 'a new scan' },
              ...(saved.data?.items ?? []).map((scan) => ({ value: scan.name, words: scan.name, about: scan.notes })),
            ]}
            onPick={(picked) => {
              const scan = saved.data?.items.find((one) => one.name === picked);
              open(scan ? draftOf(scan) : EMPTY);
            }}
          />
          <Samples onPick={(next) => open({ ...EMPTY, ...next })} />
          <More pane={id} draft={draft} name={name} onOpen={open} onDrop={() => void drop()} />
        </div>
        <p className="flex items-baseline gap-1">
          <Choice
            label="How lines join"
            className="underline underline-offset-4"
            value={draft.join}
            options={[
              { value: 'all', words: 'all lines', about: 'what passes every line that is on' },
              { value: 'any', words: 'any line', about: 'what passes one of them' },
            ]}
            onPick={(join) => change({ join })}
          >
            {draft.join === 'all' ? 'all lines' : 'any line'}
          </Choice>
          of
          <UniverseButton universe={draft.universe} of={draft.name} onChange={(universe) => change({ universe })} />
        </p>
        <ScanLines lines={draft.lines} counts={counts} universe={result?.universe ?? 0} onChange={(lines) => change({ lines })} onEnter={() => void run()} />
        <div className="flex flex-wrap gap-1">
          <Button size="small" onClick={() => change({ lines: [...draft.lines, line('')] })} disabled={draft.lines.length >= 20}>
            type a line
          </Button>
          <LineBuilder onBuilt={(phrase) => change({ lines: [...draft.lines.filter((one) => one.phrase.trim() !== ''), line(phrase)] })} />
        </div>
        <div className="flex flex-wrap items-center gap-2 border-t border-hair pt-2">
          <Button onClick={() => void run()} disabled={!readable || running !== null}>
            {running === null ? 'run now' : 'looking …'}
          </Button>
          {running !== null && <Progress run={running} />}
          <Keeping draft={draft} onChange={change} />
          <SaveButton draft={draft} isSaved={isSaved} readable={readable} onSave={(as) => void save(as)} />
          {isSaved && (draft.keep || draft.times.length > 0) && (
            <Button size="small" title={`Tell me when something new passes ${draft.name}`} onClick={() => void tellMe(id, draft.name)}>
              tell me
            </Button>
          )}
        </div>
        {saved.error && <p className="plate heather whitespace-normal">{problemWords(saved.error.problem)}</p>}
      </section>
      <section className="flex min-w-0 flex-1 flex-col" aria-label="What it found">
        {runs.length > 1 && <History runs={runs} shown={result?.id ?? null} onPick={setShown} />}
        {result ? (
          <ScanResults pane={id} phrases={phrases} result={result} before={before} />
        ) : (
          <p className="p-2 text-quiet">Write what you look for at the left, or take a sample, then run it.</p>
        )}
      </section>
    </div>
  );
}

/** How far the history is that a run makes, with the way to stop it. */
function Progress({ run }: { run: string }) {
  const { data } = useAsked('GET /api/scan-progress/{id}', { path: { id: run } }, { everyMs: PROGRESS_EVERY_MS });
  if (!data || data.of === 0) return null;
  return (
    <span className="flex items-center gap-2" role="status">
      <span
        className="h-[4px] w-[80px] bg-well"
        role="progressbar"
        aria-label="History made"
        aria-valuemin={0}
        aria-valuemax={data.of}
        aria-valuenow={data.done}
      >
        <span className="block h-full bg-ink" style={{ width: `${(100 * data.done) / data.of}%` }} />
      </span>
      history of {data.done} of {data.of}
      <Button size="small" onClick={() => void request('DELETE /api/scan-progress/{id}', { path: { id: run } })}>
        stop
      </Button>
    </span>
  );
}

/** Makes an alert of what a scan finds new. */
async function tellMe(pane: string, scan: string): Promise<void> {
  const done = await request('POST /api/alerts', { body: { kind: 'scan', scan, fires: 'every', sound: 'bell' } });
  if (done.ok) answer(pane, 'done', `tells when something new passes ${scan}`);
  else answer(pane, 'refused', problemWords(done.problem));
}

function Samples({ onPick }: { onPick: (draft: Partial<ScanDraft>) => void }) {
  return (
    <Menu className="max-h-[420px] w-[380px] scroll" trigger={<Button size="small">samples</Button>}>
      {Object.entries(SAMPLES).map(([category, samples]) => (
        <div key={category}>
          <MenuLabel>{category}</MenuLabel>
          {samples.map(({ name, about, draft: { phrases, ...rest } }) => (
            <MenuItem key={name} about={about} onPick={() => onPick({ ...rest, name, lines: phrases.map((phrase) => line(phrase)) })}>
              {name}
            </MenuItem>
          ))}
        </div>
      ))}
    </Menu>
  );
}

function More({ pane, draft, name, onOpen, onDrop }: { pane: string; draft: ScanDraft; name: string; onOpen: (draft: ScanDraft) => void; onDrop: () => void }) {
  const paste = async (): Promise<void> => {
    const text = await navigator.clipboard.readText().catch(() => null);
    if (text === null) return answer(pane, 'refused', 'the clipboard can’t be read: allow it in the browser');
    const read = await readShaped<ApiScan>(text, (body) => shapeErrors('scan', body));
    if (read.ok) onOpen(takenDraft(read.value));
    else answer(pane, 'refused', `what is on the clipboard is no scan: ${read.refusal}`);
  };
  return (
    <Menu trigger={<Button size="small">more</Button>}>
      <MenuItem onPick={() => onOpen({ ...draft, name: `${draft.name} copy`.trim(), version: 0 })}>make a copy</MenuItem>
      <MenuItem onPick={() => void navigator.clipboard.writeText(textToTake(draft))}>copy as JSON</MenuItem>
      <MenuItem onPick={() => void paste()}>paste JSON</MenuItem>
      <MenuItem disabled={name === ''} onPick={onDrop}>
        delete {name}
      </MenuItem>
    </Menu>
  );
}

const MOST_TIMES = 12;

/** Kept running, or run at times: with no window open. */
function Keeping({ draft, onChange }: { draft: ScanDraft; onChange: (to: Partial<ScanDraft>) => void }) {
  const [text, setText] = useState<string | null>(null);
  const times = (text ?? '').split(/[\s,]+/).filter(Boolean);
  const wrong = times.length > MOST_TIMES ? `at most ${MOST_TIMES} times` : (times.find((one) => !/^([01]\d|2[0-3]):[0-5]\d$/.test(one)) ?? null);
  const take = (): void => {
    if (text === null || wrong !== null) return;
    onChange({ times });
    setText(null);
  };
  const words = draft.keep ? 'kept running' : scheduleWords(draft);
  return (
    <Popover
      label="When it runs by itself"
      trigger={
        <button type="button" className="text-quiet underline underline-offset-4">
          {words}
        </button>
      }
    >
      <div className="grid w-[240px] gap-1">
        <Toggle label="keep it running, window or none" value={draft.keep} onChange={(keep) => onChange({ keep })} />
        <label className="grid gap-1">
          at times of Halm, on its trading days
          <input
            className="field"
            placeholder="09:05, 15:30"
            aria-invalid={wrong !== null}
            value={text ?? draft.times.join(', ')}
            onChange={(event) => setText(event.target.value)}
            onBlur={take}
            onKeyDown={(event) => event.key === 'Enter' && take()}
          />
        </label>
        {wrong !== null && (
          <p role="status" className="text-ink">
            {wrong.startsWith('at most') ? wrong : `${wrong} is no time: such as 09:05 was expected`}
          </p>
        )}
        <p className="text-quiet">It counts once the scan is saved.</p>
      </div>
    </Popover>
  );
}

function SaveButton({ draft, isSaved, readable, onSave }: { draft: ScanDraft; isSaved: boolean; readable: boolean; onSave: (as: ScanDraft) => void }) {
  const [name, setName] = useState(draft.name);
  const [open, setOpen] = useState(false);
  useEffect(() => setName(draft.name), [draft.name]);
  if (draft.version > 0)
    return (
      <Button onClick={() => onSave(draft)} disabled={isSaved || !readable}>
        {isSaved ? 'saved' : 'save'}
      </Button>
    );
  return (
    <Popover label="Save the scan" open={open} onOpen={setOpen} trigger={<Button disabled={!readable}>save as</Button>}>
      <form
        className="flex gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() === '') return;
          onSave({ ...draft, name: name.trim() });
          setOpen(false);
        }}
      >
        <input className="field" aria-label="Name of the scan" value={name} maxLength={64} onChange={(event) => setName(event.target.value)} />
        <Button type="submit">save</Button>
      </form>
    </Popover>
  );
}

/** Runs on a strip by time; a press shows what was found then. */
function History({ runs, shown, onPick }: { runs: readonly ApiScanResult[]; shown: string | null; onPick: (id: string) => void }) {
  const most = Math.max(1, ...runs.map(({ count }) => count));
  return (
    <div className="flex h-[30px] shrink-0 items-end gap-[2px] overflow-hidden border-b border-hair px-2" role="group" aria-label="Runs by time">
      {runs.slice(-60).map((run) => {
        const words = `${clockText('Atlantic/Faroe', run.at)}: ${run.count} found, ${run.cause === 'keep' ? 'kept running' : run.cause}`;
        return (
          <button
            key={run.id}
            type="button"
            className="flex h-[28px] min-w-[6px] max-w-[16px] flex-1 items-end"
            aria-label={words}
            title={words}
            aria-pressed={run.id === shown}
            onClick={() => onPick(run.id)}
          >
            <span className={run.id === shown ? 'w-full bg-lamp' : 'w-full bg-line'} style={{ height: `${4 + (22 * run.count) / most}px` }} />
          </button>
        );
      })}
    </div>
  );
}
