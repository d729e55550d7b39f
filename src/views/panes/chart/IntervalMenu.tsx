import { useStore } from '@nanostores/react';
import { useState } from 'react';
import { INTERVALS, isInterval } from '../../../core/market/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Popover, PopoverClose } from '../../../kit/Popover.tsx';
import { $letters, $panes, intervalOf, setPaneInterval } from '../../workspace/panes.ts';

const QUICK = ['1m', '5m', '15m', '1h', '1d'];

/** The usual intervals side by side where there is room; all of them, and any number of minutes, in the popover. */
export function IntervalMenu({ id }: { id: string }) {
  const pane = useStore($panes)[id];
  useStore($letters);
  const interval = intervalOf(pane);
  const [minutes, setMinutes] = useState('');
  return (
    <div className="flex items-center gap-1" role="group" aria-label="Interval">
      {QUICK.map((one) => (
        <button
          key={one}
          type="button"
          aria-pressed={one === interval}
          className={`hidden min-w-[28px] rounded-[2px] px-1 @min-[420px]:block ${one === interval ? 'bg-raised' : 'text-quiet'}`}
          onClick={() => setPaneInterval(id, one)}
        >
          {one}
        </button>
      ))}
      <Popover
        label="All intervals"
        trigger={
          <button
            type="button"
            className={`px-1 ${QUICK.includes(interval) ? 'text-quiet' : 'rounded-[2px] bg-raised'}`}
            aria-label={`Interval ${interval}, all intervals`}
          >
            <span className={QUICK.includes(interval) ? '@min-[420px]:hidden' : ''}>{interval}</span> ▾
          </button>
        }
      >
        <div className="grid w-[176px] grid-cols-4 gap-1">
          {INTERVALS.map((one) => (
            <PopoverClose key={one}>
              <Button className="px-0" aria-pressed={one === interval} onClick={() => setPaneInterval(id, one)}>
                {one}
              </Button>
            </PopoverClose>
          ))}
        </div>
        <label className="mt-2 flex items-center gap-2">
          Minutes
          <input
            className="field figure w-[64px]"
            inputMode="numeric"
            aria-label="Own interval in minutes"
            value={minutes}
            onChange={(event) => setMinutes(event.target.value.replace(/\D/g, '').slice(0, 3))}
            onKeyDown={(event) => event.key === 'Enter' && isInterval(`${minutes}min`) && setPaneInterval(id, `${minutes}min`)}
          />
          <Button disabled={!isInterval(`${minutes}min`)} onClick={() => setPaneInterval(id, `${minutes}min`)}>
            take
          </Button>
        </label>
      </Popover>
    </div>
  );
}
