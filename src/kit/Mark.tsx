/** A wave over a keel: Kavix's mark, so wide. */
export function Mark({ width = 40 }: { width?: number }) {
  return (
    <svg width={width} height={(width * 24) / 40} viewBox="0 0 40 24" role="img" aria-label="Kavix" fill="none" strokeWidth="2">
      <path d="M2 4v14h6" stroke="var(--ink)" />
      <path d="M6 15c6-12 12-12 15-5s8 6 17-2" stroke="var(--ink)" />
      <path d="M12 20c6-3 10-3 14-1s8 1 12-1" stroke="var(--weed)" />
    </svg>
  );
}
