import { useEffect, useLayoutEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { act, closeSlip, type GestureIntent, type Slip } from '../../client/gestures/index.ts';
import { FLOAT } from '../../kit/floats.ts';
import { laidOut } from '../../kit/scale.ts';
import { clearPlace, type Box } from './slip-place.ts';

/** Keys count only after the slip has been seen. */
const DEAF_MS = 250;
const WIDTH = 320;
/** Top line and rail stay in view. */
const HEAD_PX = 68;
/** So high it grows when all it says has come. */
const MOST_HEIGHT = 390;

interface Props {
  readonly slip: Slip;
  readonly label: string;
  readonly onSend: () => void;
  /** Other keys, once they count; `bare` where none of its fields has the focus. */
  readonly onKey: (event: KeyboardEvent, bare: boolean) => void;
  readonly children: ReactNode;
}

/** The panel of a slip: clear of the order areas, deaf at first, `Enter` sends and `Esc` leaves it. */
export function SlipFrame({ slip, label, onSend, onKey, children }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [place, setPlace] = useState({ left: 0, top: 80 });
  const [deaf, setDeaf] = useState(true);
  useEffect(() => {
    const timer = setTimeout(() => setDeaf(false), Math.max(0, DEAF_MS - (performance.now() - slip.openedAt)));
    return () => clearTimeout(timer);
  }, [slip.openedAt]);
  useLayoutEffect(() => {
    const asked = document.querySelector(`[data-pane="${slip.pane}"]`)?.getBoundingClientRect();
    const [width, height] = [WIDTH, box.current?.offsetHeight ?? 320];
    if (asked) {
      const inPx = ({ left, top, right, bottom }: DOMRect): Box => ({ left: laidOut(left), top: laidOut(top), right: laidOut(right), bottom: laidOut(bottom) });
      const areas = [...document.querySelectorAll('[data-order-area]')].map((one) => inPx(one.getBoundingClientRect()));
      const room = { left: 0, top: HEAD_PX, right: laidOut(window.innerWidth), bottom: laidOut(window.innerHeight) };
      setPlace(clearPlace({ width, height: Math.max(height, MOST_HEIGHT) }, room, areas, inPx(asked)));
    }
    box.current?.focus();
  }, [slip.pane]);
  return (
    <div
      ref={box}
      role="dialog"
      data-moving={deaf || undefined}
      aria-label={label}
      tabIndex={-1}
      className={`${FLOAT} fixed p-3 outline-none`}
      style={{ ...place, width: WIDTH }}
      onKeyDown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') {
          closeSlip();
          return;
        }
        if (performance.now() - slip.openedAt < DEAF_MS || event.repeat) {
          if (event.key !== 'Tab') event.preventDefault();
          return;
        }
        if (event.key === 'Enter' && !(event.target as HTMLElement).closest('button')) {
          event.preventDefault();
          onSend();
        } else onKey(event, event.target === box.current);
      }}
    >
      {children}
    </div>
  );
}

/** Sends what a slip says, once: it closes where that went, and stays where it was refused. */
export function useSending(pane: string): { readonly sending: boolean; readonly send: (intent: GestureIntent) => void } {
  const [sending, setSending] = useState(false);
  const send = (intent: GestureIntent): void => {
    if (sending) return;
    const submitted = act(pane, 'review', intent);
    if (submitted.kind !== 'sent') return;
    setSending(true);
    void submitted.done.then((went) => {
      setSending(false);
      if (went) closeSlip();
    });
  };
  return { sending, send };
}
