export interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

const GAP = 8;

const overlap = (a: Box, b: Box): number =>
  Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left)) * Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top));

/**
 * Where a panel of a size stands clear of all `areas`, as near as can be to the one that asked; where there is no such
 * place, the one that covers the least of them. It stays below `room.top` and inside the window.
 */
export function clearPlace(size: { width: number; height: number }, room: Box, areas: readonly Box[], asked: Box): { left: number; top: number } {
  const within = (value: number, least: number, most: number): number => Math.max(least, Math.min(most, value));
  const edges = [asked, ...areas];
  const lefts = [asked.left - size.width - GAP, asked.right + GAP, room.left + GAP, room.right - size.width - GAP];
  for (const { left, right } of edges) lefts.push(left - size.width - GAP, right + GAP);
  const tops = [asked.top + 16, room.top + GAP, room.bottom - size.height - GAP];
  for (const { top, bottom } of edges) tops.push(top - size.height - GAP, bottom + GAP);
  let best: { left: number; top: number; covers: number; far: number } | null = null;
  for (const left of lefts.map((one) => within(one, room.left + GAP, room.right - size.width - GAP)))
    for (const top of tops.map((one) => within(one, room.top + GAP, room.bottom - size.height - GAP))) {
      const box = { left, top, right: left + size.width, bottom: top + size.height };
      const covers = areas.reduce((sum, area) => sum + overlap(box, area), 0);
      const beside = left >= asked.right ? left - asked.right : asked.left - (left + size.width);
      const far = Math.abs(beside) + Math.abs(top - asked.top - 16) * 0.5;
      if (!best || covers < best.covers || (covers === best.covers && far < best.far)) best = { left, top, covers, far };
    }
  return { left: best?.left ?? room.left, top: best?.top ?? room.top };
}
