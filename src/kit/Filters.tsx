/** What a pane shows of its rows: a line of words above them, of which one is chosen. */
export function Filters<T extends string>({
  label,
  options,
  chosen,
  onChoose,
}: {
  label: string;
  options: readonly { readonly value: T; readonly words: string }[];
  chosen: T;
  onChoose: (value: T) => void;
}) {
  return (
    <div className="flex h-[22px] shrink-0 items-center gap-3 px-2" role="group" aria-label={label}>
      {options.map(({ value, words }) => (
        <button
          key={value}
          type="button"
          aria-pressed={chosen === value}
          className={`max-w-[160px] truncate ${chosen === value ? 'underline underline-offset-4' : 'text-quiet'}`}
          onClick={() => onChoose(value)}
        >
          {words}
        </button>
      ))}
    </div>
  );
}
