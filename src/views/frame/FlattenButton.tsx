import { useStore } from '@nanostores/react';
import { useRef, useState, type PointerEvent } from 'react';
import { $answers, readAnswer } from '../../client/answers.ts';
import { act } from '../../client/gestures/index.ts';
import { Button } from '../../kit/Button.tsx';
import { FLOAT } from '../../kit/floats.ts';
import { $working, $positions } from '../../live/index.ts';

const HOLD_MS = 400;

/** Press and hold flattens the account; leaving it or Esc stops. By key it asks once. */
export function FlattenButton({ account }: { account: string }) {
  const positions = useStore($positions);
  const orders = useStore($working);
  const answers = useStore($answers);
  const [held, setHeld] = useState(false);
  const [asking, setAsking] = useState(false);
  const press = useRef<{ timer: ReturnType<typeof setTimeout>; at: number } | null>(null);
  const open = Object.values(positions).filter((position) => position.account === account && position.quantity !== '0').length;
  const working = Object.values(orders)
    .flat()
    .filter((order) => order.account === account).length;
  const nothing = open + working === 0;
  const full = `Flatten ${account} · ${open}, ${working}: ${open} positions, ${working} orders`;
  const stop = (): void => {
    if (press.current) clearTimeout(press.current.timer);
    press.current = null;
    setHeld(false);
  };
  const go = (): void => {
    stop();
    setAsking(false);
    act('rail', 'rail', { kind: 'flatten', account, instrument: null });
  };
  /** A busy thread may hear of the release before its own timer: what counts is how long the pointer was down. */
  const release = (event: PointerEvent): void => {
    if (press.current && event.timeStamp - press.current.at >= HOLD_MS) go();
    else stop();
  };
  return (
    <div className="relative ml-auto shrink-0">
      <Button
        className="relative h-[26px] w-[132px] overflow-hidden"
        aria-label={nothing ? `${account} is flat` : full}
        title={full}
        disabled={nothing}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          setHeld(true);
          press.current = { timer: setTimeout(go, HOLD_MS), at: event.timeStamp };
        }}
        onPointerUp={release}
        onPointerLeave={release}
        onKeyDown={(event) => {
          if (event.key === 'Escape') {
            stop();
            setAsking(false);
          }
          if (event.key !== 'Enter' || event.repeat) return;
          event.preventDefault();
          if (asking) go();
          else setAsking(true);
        }}
        onBlur={() => setAsking(false)}
      >
        <span
          className="absolute inset-y-0 left-0 bg-lamp/25 transition-[width] ease-linear"
          style={{ width: held ? '100%' : 0, transitionDuration: held ? `${HOLD_MS}ms` : '0ms' }}
        />
        <span className="relative">{nothing ? `${account} is flat` : asking ? 'Enter: flatten' : `Flatten ${account} · ${open}, ${working}`}</span>
      </Button>
      {answers['rail'] && (
        <button
          type="button"
          title="Press to put it away"
          className={`absolute right-0 top-[30px] z-40 ${answers['rail'].kind === 'done' ? `${FLOAT} px-2` : 'plate heather'}`}
          onClick={() => readAnswer('rail')}
        >
          <span role="status">{answers['rail'].text}</span>
        </button>
      )}
    </div>
  );
}
