import { useState } from 'react';
import { Button } from '../../../kit/Button.tsx';
import { problemWords, request } from '../../../live/index.ts';
import { askAgain, useAsked } from '../../act/queries.tsx';
import { Section } from '../settings/Section.tsx';

const MOST = 20_000;

/** What the trader writes down of the day. */
export function DayNote({ day }: { day: string }) {
  const { data } = useAsked('GET /api/notes/{day}', { path: { day } });
  const [typed, setTyped] = useState<string | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const save = async (): Promise<void> => {
    if (typed === null) return;
    const done = await request('PUT /api/notes/{day}', { path: { day }, body: { text: typed } });
    setSaid(done.ok ? 'Kept.' : problemWords(done.problem));
    if (!done.ok) return;
    await askAgain('GET /api/notes/{day}');
    setTyped(null);
  };
  return (
    <Section title={`Note of ${day}`} about="One thing to do otherwise next time is enough.">
      <textarea
        className="field h-[72px] w-full p-1"
        aria-label={`Note of ${day}`}
        maxLength={MOST}
        value={typed ?? data?.text ?? ''}
        onChange={(event) => setTyped(event.target.value)}
      />
      <div className="mt-1 flex items-center gap-2">
        <Button disabled={typed === null} onClick={() => void save()}>
          keep it
        </Button>
        {said !== null && <span role="status">{said}</span>}
      </div>
    </Section>
  );
}
