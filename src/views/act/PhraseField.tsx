import { useId, useMemo, type ReactNode } from 'react';
import { readConditionWords, type PhraseError } from '../../core/language/index.ts';
import { isInsertable, mended } from './mend.ts';
import { readCondition } from './phrase.ts';

interface Props {
  readonly label: string;
  readonly value: string;
  readonly onChange: (text: string) => void;
  /** `Enter`, where the phrase can be read. */
  readonly onEnter?: () => void;
  /** What the server found wrong, where it knows more. */
  readonly refused?: PhraseError | null;
  readonly placeholder?: string;
  readonly children?: ReactNode;
}

/**
 * A condition phrase, read while it is typed: its sentence below, or the word that is wrong with what could stand
 * there, each a button that puts it in.
 */
export function PhraseField({ label, value, onChange, onEnter, refused = null, placeholder, children }: Props) {
  const read = useMemo(() => readCondition(value), [value]);
  const about = useId();
  const error = value.trim() === '' ? null : read.ok ? refused : read.error;
  return (
    <div className="min-w-0 flex-1">
      <span className="flex items-center gap-1">
        <input
          className="field w-full"
          aria-label={label}
          aria-invalid={error !== null}
          aria-describedby={about}
          placeholder={placeholder}
          spellCheck={false}
          autoComplete="off"
          value={value}
          onChange={(event) => onChange(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && read.ok && onEnter) {
              event.preventDefault();
              onEnter();
            }
          }}
        />
        {children}
      </span>
      <div id={about}>
        {error ? (
          <Mend text={value} error={error} onChange={onChange} />
        ) : (
          read.ok && (
            <p className="truncate text-quiet" title={readConditionWords(read.value.condition)}>
              {readConditionWords(read.value.condition)}
            </p>
          )
        )}
      </div>
    </div>
  );
}

function Mend({ text, error, onChange }: { text: string; error: PhraseError; onChange: (text: string) => void }) {
  const { from, to, message, expected } = error;
  const at = to > from ? text.slice(from, to) : 'the end';
  return (
    <div className="flex flex-wrap items-center gap-1 pt-[2px]" role="group" aria-label="What could stand there">
      <span className="plate heather max-w-full truncate" title={message}>
        {at === 'the end' ? 'not finished' : `“${at}”`}
      </span>
      {expected.filter(isInsertable).map((words) => (
        <button
          key={words}
          type="button"
          className="min-h-[20px] rounded-[2px] border border-line px-1 hover:bg-raised"
          onClick={() => onChange(mended(text, error, words))}
        >
          {words}
        </button>
      ))}
      {expected.every((words) => !isInsertable(words)) && <span className="text-quiet">{message}</span>}
    </div>
  );
}
