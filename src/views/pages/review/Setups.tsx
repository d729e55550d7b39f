import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { LATELY, lately, latelyWords } from '../../../client/setups.ts';
import { $setupWords, changeSettings } from '../../../client/settings.ts';
import { TextCell } from '../../../kit/TextCell.tsx';
import { useAsked } from '../../act/queries.tsx';
import { SetupMarks } from '../../act/SetupSpeaks.tsx';
import { Section } from '../settings/Section.tsx';

/** The last of each setup, and the words that the slip says when they lose. */
export function Setups({ setups, account }: { setups: readonly string[]; account: readonly string[] }) {
  const words = useStore($setupWords);
  const [edited, setEdited] = useState<string | null>(null);
  return (
    <Section title={`Setups, the last ${LATELY} of each`} about="Where they lose on average, the slip says these words and offers half the size.">
      {setups.length === 0 && <p className="text-quiet">No round trip has a setup yet.</p>}
      <ul>
        {setups.map((setup) => (
          <li key={setup} className="flex min-h-[28px] items-center gap-3">
            <Lately setup={setup} account={account} />
            {edited === setup ? (
              <TextCell
                label={`Words for ${setup}`}
                value={words[setup] ?? ''}
                onDone={(text) => {
                  setEdited(null);
                  const { [setup]: _before, ...others } = words;
                  if (text !== null) changeSettings({ setupWords: text.trim() === '' ? others : { ...others, [setup]: text.trim().slice(0, 200) } });
                }}
              />
            ) : (
              <button type="button" className="ml-auto truncate text-quiet underline underline-offset-4" onClick={() => setEdited(setup)}>
                {words[setup] ?? 'own words'}
              </button>
            )}
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Lately({ setup, account }: { setup: string; account: readonly string[] }) {
  const { data } = useAsked('GET /api/review/round-trips', { query: { setup, account, newest: LATELY } });
  if (!data) return <span>{setup}</span>;
  const done = lately(data.items);
  return (
    <>
      <SetupMarks marks={done.marks} />
      <span className={done.meanR !== null && done.meanR < 0 ? 'font-semibold' : ''}>{latelyWords(setup, done)}</span>
    </>
  );
}
