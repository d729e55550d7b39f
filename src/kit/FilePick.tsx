import type { RefObject } from 'react';

interface Props {
  readonly label: string;
  readonly accept: string;
  /** What is pressed instead of it calls its `click`. */
  readonly input: RefObject<HTMLInputElement | null>;
  readonly onPick: (file: File) => void;
}

/** A file from the machine, picked by something else that is pressed; the same file again is picked again. */
export function FilePick({ label, accept, input, onPick }: Props) {
  return (
    <input
      ref={input}
      type="file"
      accept={accept}
      className="hidden"
      aria-label={label}
      onChange={({ target }) => {
        const [file] = target.files ?? [];
        if (file) onPick(file);
        target.value = '';
      }}
    />
  );
}
