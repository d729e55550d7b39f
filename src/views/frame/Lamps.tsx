import { useStore } from '@nanostores/react';
import { $lamps, type Lamp } from '../../client/lamps.ts';
import { Button } from '../../kit/Button.tsx';
import { Popover } from '../../kit/Popover.tsx';
import { $dataRate, $link, $merged, DATA_RATES, request, setDataRate } from '../../live/index.ts';
import { grouped } from '../../kit/Figure.tsx';

const NAMES = { screen: 'S', data: 'D', broker: 'B' } as const;
type Name = keyof typeof NAMES;
const STATE_WORDS = { up: 'up', late: 'late', down: 'down' } as const;

function Shape({ state }: { state: Lamp['state'] }) {
  return (
    <svg width="9" height="9" viewBox="0 0 9 9" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="1.2">
      <circle cx="4.5" cy="4.5" r="3.8" fill={state === 'up' ? 'currentColor' : 'none'} />
      {state === 'late' && <path d="M4.5 .7a3.8 3.8 0 0 1 0 7.6z" fill="currentColor" />}
    </svg>
  );
}

function LampSign({ name, lamp }: { name: Name; lamp: Lamp }) {
  return (
    <span
      className={`flex items-center gap-1 px-1 ${lamp.state === 'up' ? '' : 'plate heather'}`}
      role="img"
      aria-label={`${name} ${STATE_WORDS[lamp.state]}${lamp.age ? `, ${lamp.age} s` : ''}`}
    >
      <Shape state={lamp.state} />
      {/* Letter and age are drawn, not written: the sign's name says them in words. */}
      <span className="before:content-[attr(data-letter)]" data-letter={NAMES[name]} />
      {lamp.state !== 'up' && lamp.age !== null && <span className="figure before:content-[attr(data-age)]" data-age={`${lamp.age} s`} />}
    </span>
  );
}

export function Lamps() {
  const state = useStore($lamps);
  const link = useStore($link);
  const rate = useStore($dataRate);
  const merged = useStore($merged);
  const toggle = (name: 'broker' | 'data'): void => void request('POST /api/link', { body: { [name]: link?.[name] === 'down' ? 'up' : 'down' } });
  return (
    <Popover
      label="Links"
      align="end"
      trigger={
        <button type="button" className="flex min-w-[100px] items-center justify-end gap-1">
          <span className="sr-only">Links</span>
          <LampSign name="screen" lamp={state.screen} />
          <LampSign name="data" lamp={state.data} />
          <LampSign name="broker" lamp={state.broker} />
          {rate < 60 && (
            <span className="plate heather figure px-1" data-testid="slowed">
              {rate}/s
            </span>
          )}
        </button>
      }
    >
      <p className="mb-2 max-w-60">Screen: this window to Kavix. Data: prices from the venues. Broker: orders and fills.</p>
      <fieldset className="mb-2">
        <legend className="text-quiet">This window takes quotes, depth and bars</legend>
        <div className="flex gap-1">
          {DATA_RATES.map((one) => (
            <Button key={one} aria-pressed={rate === one} onClick={() => setDataRate(one)}>
              {one === 60 ? 'as they come' : `${one} a second`}
            </Button>
          ))}
        </div>
        {rate < 60 && <p className="mt-1">{grouped(String(merged))} changes were merged into newer ones. Prints and orders come all, at once.</p>}
      </fieldset>
      <div className="flex gap-1">
        {(['broker', 'data'] as const).map((name) => (
          <Button key={name} onClick={() => toggle(name)}>
            {link?.[name] === 'down' ? `restore ${name}` : `drop ${name}`}
          </Button>
        ))}
      </div>
    </Popover>
  );
}
