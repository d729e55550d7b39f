import { DndContext, KeyboardSensor, PointerSensor, closestCenter, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, arrayMove, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import type { ComponentProps, CSSProperties, HTMLAttributes, ReactNode } from 'react';
import { HandleOf } from './Handle.tsx';
import { laidOut } from './scale.ts';

/** Puts rows in the order that was asked for. */
export type Move = <T>(rows: readonly T[]) => T[];

/** Rows, known by their keys, that are put in another order by their handles. */
export function Sorted({ keys, onMove, children }: { keys: readonly string[]; onMove: (move: Move) => void; children: ReactNode }) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const at = (key: unknown): number => keys.findIndex((one) => one === key);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        const [from, to] = [at(active.id), at(over?.id)];
        if (from >= 0 && to >= 0 && from !== to) onMove((rows) => arrayMove([...rows], from, to));
      }}
    >
      <SortableContext items={[...keys]} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** A row among sorted ones: where it is drawn while it is dragged, and what its handle needs. */
export function useSorted(key: string): { ref: (node: HTMLElement | null) => void; style: CSSProperties; handle: HTMLAttributes<HTMLButtonElement> } {
  const { setNodeRef, attributes, listeners, transform, isDragging } = useSortable({ id: key });
  const style = { transform: transform ? `translateY(${Math.round(laidOut(transform.y))}px)` : undefined, opacity: isDragging ? 0.6 : undefined };
  return { ref: setNodeRef, style, handle: { ...attributes, ...listeners } };
}

/** A table's row among sorted ones. */
export function SortedRow({ row, rowProps, children }: { row: { readonly key: string }; rowProps: ComponentProps<'tr'>; children: ReactNode }) {
  const sorted = useSorted(row.key);
  const { ref, ...rest } = rowProps;
  return (
    <tr
      {...rest}
      ref={(node) => {
        sorted.ref(node);
        if (typeof ref === 'object' && ref) ref.current = node;
      }}
      style={sorted.style}
    >
      <HandleOf value={sorted.handle}>{children}</HandleOf>
    </tr>
  );
}
