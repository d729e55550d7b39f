import { useStore } from '@nanostores/react';
import { Volume2 } from 'lucide-react';
import { useState } from 'react';
import { $directSend, DIRECT_SENDS, SURFACES, setDirectSend } from '../../../client/session.ts';
import { readShaped } from '../../../client/json-text.ts';
import { $settings, $settingsState, changeSettings, portable, type Settings } from '../../../client/settings.ts';
import { play } from '../../../client/sounds.ts';
import { noteUndoable } from '../../../client/undo.ts';
import { SOUND_EVENTS } from '../../../schemas/saved.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';
import { Field, NumberField, Toggle } from '../../../kit/Field.tsx';
import { $dataRate, DATA_RATES, setDataRate, type DataRate } from '../../../live/index.ts';
import { shapeErrors } from '../../act/checked.tsx';
import { JsonFile } from '../../act/JsonFile.tsx';
import { setTheme } from '../../theme/theme.ts';
import { SecondStep, SignedIn, Tokens } from './Access.tsx';
import { Keys } from './Keys.tsx';
import { Section } from './Section.tsx';
import { SizeKeys } from './SizeKeys.tsx';

const THEMES = [
  { value: 'night', words: 'Night watch' },
  { value: 'day', words: 'Chart room' },
] as const;
const SCALES = [85, 90, 100, 110, 125, 150].map((one) => ({ value: String(one), words: `${one} %` }));
const RATE_WORDS: Readonly<Record<DataRate, string>> = { 60: 'as they come', 10: '10 a second', 2: '2 a second' };
const SOUND_WORDS: Readonly<Record<Settings['sounds'][number], string>> = {
  fill: 'A fill',
  rejected: 'A rejected order',
  sent: 'An order goes out',
  trigger: 'A stop, exit or waiting order fires',
  blocked: 'A rule begins to block',
  'link lost': 'A link is lost',
  'link back': 'A link is back',
};

/** How Kavix is set up. What is set here holds in all of the user's windows, here and elsewhere. */
export default function SettingsPage() {
  const settings = useStore($settings);
  const state = useStore($settingsState);
  if (state === 'failed') return <p className="plate heather">Your settings could not be read. Nothing can be changed until they are.</p>;
  if (state !== 'known') return <div className="skeleton h-full" role="status" aria-label="Loading the settings" />;
  return (
    <>
      <div className="mb-4 columns-[380px] gap-4 [&>*]:mb-4 [&>*]:break-inside-avoid">
        <Section title="Look">
          <Field label="Theme">
            <Choice label="Theme" value={settings.theme} options={THEMES} onPick={setTheme} />
          </Field>
          <Field label="Scale">
            <Choice label="Scale" value={String(settings.scale)} options={SCALES} onPick={(scale) => changeSettings({ scale: Number(scale) })} />
          </Field>
          <Toggle label="The day sheet opens at the first sign-in of a day" value={settings.daySheet} onChange={(daySheet) => changeSettings({ daySheet })} />
        </Section>
        <Sending settings={settings} />
        <Section title="Sounds" about="One of your windows is heard: the first that was opened.">
          <Field label="Volume, 0 is silent">
            <NumberField label="Volume" value={settings.volume} least={0} most={100} onChange={(volume) => changeSettings({ volume })} />
          </Field>
          {SOUND_EVENTS.map((event) => (
            <div key={event} className="flex items-center gap-2">
              <button
                type="button"
                className="grid h-6 w-6 place-items-center text-quiet"
                aria-label={`Hear: ${SOUND_WORDS[event]}`}
                onClick={() => play(event, settings.volume)}
              >
                <Volume2 size={13} />
              </button>
              <div className="flex-1">
                <Toggle
                  label={SOUND_WORDS[event]}
                  value={settings.sounds.includes(event)}
                  onChange={(on) => changeSettings({ sounds: SOUND_EVENTS.filter((one) => (one === event ? on : settings.sounds.includes(one))) })}
                />
              </div>
            </div>
          ))}
        </Section>
        <SizeKeys settings={settings} />
        <DataRates />
        <TakeAlong settings={settings} />
        <SecondStep />
        <Tokens />
        <SignedIn />
      </div>
      <Keys />
    </>
  );
}

function Sending({ settings }: { settings: Settings }) {
  const direct = useStore($directSend);
  return (
    <Section title="Sending" about="Off: every gesture opens the slip. Exits only: what closes goes at once. All: every gesture sends at once.">
      {SURFACES.map((surface) => (
        <Field key={surface} label={`Direct send, ${surface}`}>
          <div className="flex gap-1" role="radiogroup" aria-label={`Direct send, ${surface}`}>
            {DIRECT_SENDS.map((one) => (
              <Button key={one} role="radio" aria-checked={direct[surface] === one} onClick={() => setDirectSend(surface, one)}>
                {one}
              </Button>
            ))}
          </div>
        </Field>
      ))}
      <Toggle label="“All” stays on a new trading day and at sign-in" value={settings.keepAll} onChange={(keepAll) => changeSettings({ keepAll })} />
      <Toggle label="Space twice opens the order layer for one order" value={settings.latch} onChange={(latch) => changeSettings({ latch })} />
      <Field label="The same press again is refused within, ms">
        <NumberField
          label="The same press again is refused within, ms"
          value={settings.againMs}
          least={0}
          most={500}
          onChange={(againMs) => changeSettings({ againMs })}
        />
      </Field>
    </Section>
  );
}

/** The settings as a file, for another user or another Kavix; what was read and seen here stays here. */
function TakeAlong({ settings }: { settings: Settings }) {
  const [said, setSaid] = useState<string | null>(null);
  const take = async (text: string, file: string): Promise<void> => {
    const read = await readShaped<Partial<Settings>>(text, (body) => shapeErrors('settings', body));
    if (!read.ok) return setSaid(`${file}: ${read.refusal} Nothing was taken.`);
    changeSettings(portable(read.value));
    noteUndoable('the settings', () => void changeSettings(portable(settings)));
    setSaid(`The settings are as in ${file}. Ctrl Z brings back what they were.`);
  };
  return (
    <Section title="Take along" about="Look, sounds, sizes and how a press is taken, as a file. Keys have their own.">
      <div className="flex gap-1">
        <JsonFile what="settings" saved={{ file: 'kavix-settings.json', value: portable(settings) }} onText={(text, file) => void take(text, file)} />
      </div>
      {said !== null && (
        <p role="status" className="mt-2">
          {said}
        </p>
      )}
    </Section>
  );
}

function DataRates() {
  const rate = useStore($dataRate);
  return (
    <Section title="Data" about="Quotes, depth and bars in this window. Prints and orders always come all, at once.">
      <div className="flex gap-1" role="radiogroup" aria-label="This window takes quotes, depth and bars">
        {DATA_RATES.map((one) => (
          <Button key={one} role="radio" aria-checked={rate === one} onClick={() => setDataRate(one)}>
            {RATE_WORDS[one]}
          </Button>
        ))}
      </div>
    </Section>
  );
}
