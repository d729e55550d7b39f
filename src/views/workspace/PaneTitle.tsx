import { useStore } from '@nanostores/react';
import type { DockviewPanelApi, IDockviewPanel } from 'dockview-react';
import { X } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { Menu, MenuChoice } from '../../kit/Menu.tsx';
import { $answers, readAnswer } from '../../client/answers.ts';
import { $lamps } from '../../client/lamps.ts';
import { resultClass, signed, writeFigure } from '../../kit/Figure.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { paintNoMore, paintSoon } from '../../kit/pace.ts';
import { writeClass, writeText } from '../../kit/write.ts';
import { followQuote, instrumentOf, type LiveQuote } from '../../live/index.ts';
import { PANES } from '../panes/index.ts';
import { SizeChoice } from '../act/SizeChoice.tsx';
import { $letters, $panes, LINK_LETTERS, setIntervalLetter, setLetter, targetOf, type LinkLetter } from './panes.ts';
import { PaneSettings } from './PaneSettings.tsx';
import { TitleSlot } from './TitleSlot.tsx';

/** The pane's name; stacked panes are words side by side. One that lies beneath shows its answer on its word. */
export function PaneWord({ id, panel }: { id: string; panel: DockviewPanelApi }) {
  const pane = useStore($panes)[id];
  const line = useStore($answers)[id];
  const [visible, setVisible] = useState(panel.isVisible);
  const own = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const heard = panel.onDidVisibilityChange(({ isVisible }) => setVisible(isVisible));
    // The tab is called what stands in it, an answer too: the docking's own name for it is the kind alone.
    own.current?.closest('[role="tab"]')?.removeAttribute('aria-label');
    return () => heard.dispose();
  }, [panel]);
  return (
    <span ref={own} className="pane-word pr-[6px] leading-[24px]" title={pane?.kind}>
      {pane?.kind}
      {line && !visible && (
        <span
          role="status"
          data-testid="answer-beneath"
          title={line.text}
          className={`ml-1 inline-block max-w-[160px] truncate rounded-[2px] px-1 align-bottom ${line.kind === 'done' ? 'bg-raised' : 'plate heather'}`}
        >
          {line.text}
        </span>
      )}
    </span>
  );
}

/** How old what is shown is, where it is no longer live. */
function QuoteAge() {
  const { screen, data } = useStore($lamps);
  const worst = screen.state !== 'up' ? screen : data;
  if (worst.state === 'up') return null;
  return (
    <span className="plate heather" data-testid="quote-age">
      {worst.age === null ? 'old' : `${worst.age} s old`}
    </span>
  );
}

/** The rest of the title line: target, price, answer line, link letter. */
export function PaneActions({ panel }: { panel: IDockviewPanel }) {
  return <TitleLine id={panel.id} panel={panel} />;
}

/** A pane's title line; without a docking panel it stands in a window of its own. */
export function TitleLine({ id, panel }: { id: string; panel: IDockviewPanel | null }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  if (!pane) return null;
  const target = targetOf(id);
  const { title } = PANES[pane.kind];
  return (
    <div className="flex h-[24px] w-full min-w-0 items-center justify-end gap-[5px] pr-1 [&>button]:shrink-0">
      {!panel && <span className="mr-auto pl-1">{pane.kind}</span>}
      {(title === 'orders' || title === 'selected') && target && (
        <>
          <InstrumentName id={target.instrument} />
          {pane.kind === 'Chart' && <TitlePrice key={target.instrument} instrument={target.instrument} />}
          <span className="whitespace-nowrap">
            {target.account} ·{' '}
            <SizeChoice
              account={target.account}
              instrument={target.instrument}
              trigger={(text) => (
                <button type="button" className="figure" aria-label={`Size ${text}`}>
                  {text}
                </button>
              )}
            />
          </span>
        </>
      )}
      {title === 'instrument' && target && <InstrumentName id={target.instrument} />}
      {title === 'words' && <TitleSlot id={id} />}
      {title !== 'name' && title !== 'words' && target && <QuoteAge />}
      <AnswerText id={id} />
      <LetterMenu id={id} />
      <PaneSettings id={id} docked={panel !== null} />
      {panel && (
        <button
          type="button"
          className="grid h-[20px] w-[20px] place-items-center text-quiet"
          aria-label={`Close ${pane.kind}`}
          onClick={() => panel.api.close()}
        >
          <X size={12} />
        </button>
      )}
    </div>
  );
}

/**
 * The last price, its change and the instrument's name, in a box that lays out by itself: its width follows from how
 * many digits there are, so that a price that changes leaves the rest of the line alone.
 */
function TitlePrice({ instrument }: { instrument: string }) {
  const name = instrumentOf(instrument)?.name ?? '';
  const ref = useCallback(
    (box: HTMLSpanElement | null) => {
      if (!box) return undefined;
      const [last, change] = [...(box.firstElementChild?.children ?? [])] as [HTMLElement, HTMLElement];
      const write = ({ text }: LiveQuote): void => {
        const price = text.last ?? `[${text.previousSettlement ?? '–'}]`;
        const moved = text.change === null ? '' : `${signed(text.change)}  ${signed(text.changePercent ?? '0')} %`;
        const least = `${price.length + 0.5}ch`;
        const width = `${price.length + 0.5 + (moved.length + 1) * 0.68 + (name.length + 1) * 0.6}ch`;
        if (box.style.minWidth !== least) box.style.minWidth = least;
        if (box.style.maxWidth !== width) box.style.maxWidth = width;
        writeFigure(last, price);
        writeText(change, moved);
        writeClass(change, `figure whitespace-pre ${resultClass(text.change ?? '0')}`);
      };
      const stop = followQuote(instrument, (quote) => paintSoon(box, () => write(quote)));
      return () => {
        stop();
        paintNoMore(box);
      };
    },
    [instrument, name],
  );
  return (
    <span ref={ref} className="figure relative h-[24px] flex-[1_1_0] text-[18px]">
      <span className="absolute inset-0 flex flex-wrap items-baseline gap-x-2 overflow-hidden whitespace-nowrap leading-[24px] [contain:strict]">
        <span className="figure title-price shrink-0 text-[18px] font-semibold [&_.lead]:text-ink" />
        <span className="figure whitespace-pre" data-part="change" />
        {/* Whole or not at all: what has no room wraps out of sight. */}
        <span className="text-quiet font-[family-name:var(--font-label)] text-[13px]">{name}</span>
      </span>
    </span>
  );
}

/** What became of the last thing done in the pane. */
function AnswerText({ id }: { id: string }) {
  const line = useStore($answers)[id];
  if (!line) return null;
  return (
    <span role="status" className="flex w-0 min-w-[48px] max-w-max flex-[1_1_0]">
      <button
        type="button"
        data-testid="answer"
        data-kind={line.kind}
        title={line.text}
        className={`min-w-0 max-w-[420px] truncate rounded-[2px] px-1 text-left leading-[20px] ${line.kind === 'done' ? 'bg-raised' : 'plate heather'}`}
        onClick={() => readAnswer(id)}
      >
        {line.text}
      </button>
    </span>
  );
}

function LetterMenu({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  const letter = pane?.letter ?? null;
  return (
    <Menu
      align="end"
      trigger={
        <button
          type="button"
          className="grid h-[18px] w-[18px] place-items-center rounded-[2px] border border-line text-[12px] leading-none"
          aria-label={letter ? `Link letter ${letter}` : 'No link letter'}
          data-interval={pane?.intervalLetter ?? undefined}
        >
          {letter ?? pane?.intervalLetter?.toLowerCase() ?? '–'}
        </button>
      }
    >
      <Letters label="Instrument" value={letter} onPick={(picked) => setLetter(id, picked)} />
      {pane?.kind === 'Chart' && <Letters label="Interval" value={pane.intervalLetter} onPick={(picked) => setIntervalLetter(id, picked)} />}
    </Menu>
  );
}

function Letters({ label, value, onPick }: { label: string; value: LinkLetter | null; onPick: (letter: LinkLetter | null) => void }) {
  const options = [...LINK_LETTERS, 'free' as const].map((one) => ({ value: one, words: one }));
  return (
    <MenuChoice label={label} value={value ?? 'free'} className="grid grid-cols-4" options={options} onPick={(one) => onPick(one === 'free' ? null : one)} />
  );
}
