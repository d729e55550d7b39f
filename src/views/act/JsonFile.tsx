import { useRef } from 'react';
import { Button } from '../../kit/Button.tsx';
import { FilePick } from '../../kit/FilePick.tsx';
import { saveJson } from '../../kit/save-file.ts';

interface Props {
  /** What the file holds, as its button says it: "rules". */
  readonly what: string;
  /** Its name where it is saved, and what stands in it; null where there is nothing to save. */
  readonly saved: { readonly file: string; readonly value: unknown } | null;
  readonly onText: (text: string, file: string) => void;
}

/** Takes something along as a file of JSON, and takes it from one. */
export function JsonFile({ what, saved, onText }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      {saved !== null && <Button onClick={() => saveJson(saved.file, saved.value)}>save as JSON</Button>}
      <Button onClick={() => input.current?.click()}>open JSON</Button>
      <FilePick
        label={`File of ${what}`}
        accept=".json,application/json"
        input={input}
        onPick={(file) => void file.text().then((text) => onText(text, file.name))}
      />
    </>
  );
}
