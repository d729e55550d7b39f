import { useLayoutEffect, useRef, useState, type FocusEventHandler, type KeyboardEventHandler, type PointerEventHandler } from 'react';
import { TRAVEL_PX } from '../../../client/gestures/index.ts';
import { addTicks, asPrice, type Price } from '../../../core/instrument/index.ts';
import { usePutBack } from '../../../kit/put-back.ts';
import { laidOut } from '../../../kit/scale.ts';
import type { ChartController } from './controller.ts';
import { snap } from './model.ts';

interface Pull {
  /** Where it is pulled to; null while it stands. */
  readonly to: Price | null;
  readonly byPointer: {
    readonly onPointerDown: PointerEventHandler<HTMLElement>;
    readonly onPointerMove: PointerEventHandler<HTMLElement>;
    readonly onPointerUp: PointerEventHandler<HTMLElement>;
    readonly onLostPointerCapture: PointerEventHandler<HTMLElement>;
  };
  readonly byKey: { readonly onKeyDown: KeyboardEventHandler<HTMLElement>; readonly onBlur: FocusEventHandler<HTMLElement> };
}

/**
 * Something on a chart that is pulled along the prices: by the pointer, or with `↑ ↓` (`Shift` ten at once) and `Enter`.
 * `Esc` and a lost pointer put it back.
 *
 * @param at where it stands, in price units, between two prices perhaps
 * @param letGo hears where it was let go; never where it came from
 */
export function usePull(plot: ChartController, at: number, letGo: (to: Price) => void): Pull {
  const { model, of } = plot;
  const [to, setTo] = useState<Price | null>(null);
  const began = useRef<{ readonly y: number; readonly top: number } | null>(null);
  // What was pulled last counts when it is let go, drawn by then or not.
  const newest = useRef<Price | null>(null);
  const back = (): void => {
    began.current = newest.current = null;
    setTo(null);
    model.view.frozen = false;
  };
  usePutBack(back);
  // Drawn once what is pulled says where it is: before, it would be put where it was.
  useLayoutEffect(() => plot.redraw(), [plot, to]);
  const pull = (next: Price): void => {
    model.view.frozen = true;
    setTo((newest.current = next));
  };
  const end = (): void => {
    const found = newest.current;
    back();
    if (found !== null && found !== at) letGo(found);
  };
  return {
    to,
    byPointer: {
      onPointerDown: (event) => {
        event.stopPropagation();
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        began.current = { y: event.clientY, top: model.view.y(at) };
        // Under the pointer nothing moves while it is down.
        model.view.frozen = true;
      },
      onPointerMove: (event) => {
        const start = began.current;
        if (start && Math.abs(event.clientY - start.y) >= TRAVEL_PX) pull(snap(model, start.top + laidOut(event.clientY - start.y)));
      },
      onPointerUp: () => {
        if (began.current) end();
      },
      onLostPointerCapture: () => {
        if (began.current) back();
      },
    },
    byKey: {
      onBlur: back,
      onKeyDown: (event) => {
        const way = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
        const ends = to !== null && (event.key === 'Enter' || event.key === 'Escape');
        if (way === 0 && !ends) return;
        event.preventDefault();
        event.stopPropagation();
        if (way !== 0) pull(asPrice(Math.max(1, addTicks(of.instrument, to ?? asPrice(Math.round(at)), way * (event.shiftKey ? 10 : 1)))));
        else if (event.key === 'Escape') back();
        else if (!event.repeat) end();
      },
    },
  };
}
