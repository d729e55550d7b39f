import type { DragEvent } from 'react';
import { instrumentOf } from '../../live/index.ts';

/** How an instrument travels when it is dragged. */
const INSTRUMENT_DRAG = 'text/kavix-instrument';

/** What makes an element a place from which an instrument can be dragged onto a pane or a list. */
export const dragsInstrument = (id: string) => ({
  draggable: true,
  onDragStart: (event: DragEvent) => event.dataTransfer.setData(INSTRUMENT_DRAG, id),
});

/** What makes an element take an instrument that is dropped on it. */
export const takesInstrument = (take: (id: string) => void) => ({
  onDragOver: (event: DragEvent) => {
    if (event.dataTransfer.types.includes(INSTRUMENT_DRAG)) event.preventDefault();
  },
  onDrop: (event: DragEvent) => {
    const id = event.dataTransfer.getData(INSTRUMENT_DRAG);
    if (!instrumentOf(id)) return;
    event.preventDefault();
    event.stopPropagation();
    take(id);
  },
});
