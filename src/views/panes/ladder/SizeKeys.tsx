import { useStore } from '@nanostores/react';
import { $sizes, canTrade, setSize, sizeKeys, sizeOf } from '../../../client/session.ts';
import type { Instrument } from '../../../core/instrument/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { grouped } from '../../../kit/Figure.tsx';
import { SizeWorth } from '../../act/SizeWorth.tsx';

const short = (size: string): string => (Number(size) >= 1000 ? `${Number(size) / 1000}k` : size);

/** The size keys, the position's exact quantity, and what the size is worth. */
export function SizeKeys({ instrument, account, held }: { instrument: Instrument; account: string; held: number }) {
  useStore($sizes);
  const size = sizeOf(account, instrument.id);
  const tradable = canTrade(account, instrument.id);
  const exact = String(Math.abs(held));
  const key = (value: string, words: string, disabled: boolean) => (
    <Button
      key={words}
      size="key"
      className={`figure text-center ${words.startsWith('pos') ? '' : 'min-w-0 flex-1'}`}
      aria-pressed={value === size && !disabled}
      aria-label={`Size ${words}`}
      onClick={() => setSize(account, instrument.id, value)}
      disabled={disabled}
    >
      {words}
    </Button>
  );
  return (
    <>
      <div className="flex h-[28px] shrink-0 items-center gap-[2px] overflow-hidden px-1" role="group" aria-label="Size">
        {sizeKeys(instrument).map((one) => key(one, short(one), !tradable))}
        {key(exact, held === 0 ? 'pos' : `pos ${grouped(exact)}`, held === 0)}
      </div>
      <SizeWorth account={account} instrument={instrument} size={size} />
    </>
  );
}
