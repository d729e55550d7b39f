import { useStore } from '@nanostores/react';
import { useState, type ReactElement } from 'react';
import { $sizes, canTrade, setSize, sizeKeys, sizeOf } from '../../client/session.ts';
import { Button } from '../../kit/Button.tsx';
import { grouped } from '../../kit/Figure.tsx';
import { Popover, PopoverClose } from '../../kit/Popover.tsx';
import { instrumentOf } from '../../live/index.ts';
import { SizeBy } from './SizeBy.tsx';
import { SizeWorth } from './SizeWorth.tsx';

/** The size of an instrument in an account, and the place where it is changed. */
export function SizeChoice(props: { account: string; instrument: string; trigger: (text: string) => ReactElement }) {
  useStore($sizes);
  const { account, instrument } = props;
  const spec = instrumentOf(instrument);
  const size = sizeOf(account, instrument);
  const [typed, setTyped] = useState('');
  const [wrong, setWrong] = useState(false);
  if (!spec || !canTrade(account, instrument)) return <span>{account} can’t trade it</span>;
  return (
    <Popover label="Size" trigger={props.trigger(grouped(size))}>
      <div className="flex max-w-64 flex-wrap gap-1">
        {sizeKeys(spec).map((key) => (
          <PopoverClose key={key}>
            <Button aria-pressed={key === size} onClick={() => setSize(account, instrument, key)}>
              {grouped(key)}
            </Button>
          </PopoverClose>
        ))}
      </div>
      <form
        className="mt-2 flex gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          setWrong(!setSize(account, instrument, typed.trim()));
        }}
      >
        <input
          className="field figure w-28"
          aria-label="Size"
          aria-invalid={wrong}
          value={typed}
          placeholder={size}
          onChange={(event) => setTyped(event.target.value)}
        />
        <Button type="submit">set</Button>
        <SizeBy wish={{ account, instrument, side: 'buy', type: 'market' }} onTake={(quantity) => setSize(account, instrument, quantity)} />
      </form>
      <SizeWorth account={account} instrument={spec} size={size} />
      {wrong && <p className="plate heather mt-1">not a quantity of {spec.id}</p>}
    </Popover>
  );
}
