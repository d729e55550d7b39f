/** Where a crosshair stands, told to the charts that share its letter. */
export interface SharedCrosshair {
  readonly from: string;
  readonly letter: string;
  /** Null when the pointer left. */
  readonly time: number | null;
}

const listeners = new Set<(shared: SharedCrosshair) => void>();

export const shareCrosshair = (shared: SharedCrosshair): void => listeners.forEach((listener) => listener(shared));

export function followCrosshair(listener: (shared: SharedCrosshair) => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}
