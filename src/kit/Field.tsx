import { useId, useState, type ReactNode } from 'react';

/** A setting on one line: its words, and the control at the right. */
export function Field({ label, children }: { label: ReactNode; children: ReactNode }) {
  return (
    <div className="flex min-h-[26px] items-center justify-between gap-2">
      <span>{label}</span>
      {children}
    </div>
  );
}

export function Toggle({ label, value, onChange }: { label: ReactNode; value: boolean; onChange: (value: boolean) => void }) {
  return (
    <label className="flex min-h-[26px] items-center justify-between gap-2">
      {label}
      <input type="checkbox" className="h-4 w-4 accent-lamp" checked={value} onChange={(event) => onChange(event.target.checked)} />
    </label>
  );
}

interface NumberProps {
  readonly label: string;
  readonly value: number;
  readonly least: number;
  readonly most: number;
  readonly whole?: boolean;
  readonly onChange: (value: number) => void;
  readonly className?: string;
}

/**
 * A number that is taken when the field is left or `Enter` is pressed, never while it is typed. What can't be taken
 * stays in the field with the reason, and changes nothing.
 */
export function NumberField({ label, value, least, most, whole = true, onChange, className = 'w-[84px]' }: NumberProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const reason = useId();
  const read = (text: string): number | null => {
    const number = Number(text.trim());
    return text.trim() !== '' && Number.isFinite(number) && number >= least && number <= most && (!whole || Number.isInteger(number)) ? number : null;
  };
  const wrong = typed !== null && read(typed) === null;
  const take = (): void => {
    const number = typed === null ? null : read(typed);
    if (number === null) return;
    setTyped(null);
    if (number !== value) onChange(number);
  };
  return (
    <span className="inline-flex flex-col items-end">
      <input
        className={`field figure ${className}`}
        inputMode={whole ? 'numeric' : 'decimal'}
        aria-label={label}
        aria-invalid={wrong}
        aria-describedby={wrong ? reason : undefined}
        value={typed ?? String(value)}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
          if (event.key === 'Escape' && typed !== null) {
            event.stopPropagation();
            setTyped(null);
          }
        }}
      />
      {wrong && (
        <span id={reason} className="plate heather mt-[2px]">
          {whole ? 'a whole number ' : ''}from {least} to {most}
        </span>
      )}
    </span>
  );
}
