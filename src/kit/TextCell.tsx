/** A text that is edited in place: Enter takes it, Esc leaves it. */
export function TextCell({ label, value, onDone }: { label: string; value: string; onDone: (value: string | null) => void }) {
  return (
    <input
      autoFocus
      className="field w-full h-[20px]"
      aria-label={label}
      defaultValue={value}
      maxLength={64}
      onFocus={(event) => event.target.select()}
      onBlur={(event) => onDone(event.target.value.trim())}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Enter') onDone(event.currentTarget.value.trim());
        if (event.key === 'Escape') onDone(null);
      }}
    />
  );
}
