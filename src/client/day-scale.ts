/** Without a limit and without history the stretch from wall to zero stands for this share of equity. */
const SHARE_OF_EQUITY = 0.01;
/** As many sessions are looked at. */
export const SCALE_SESSIONS = 20;

/**
 * What the gauge's stretch from wall to zero stands for where no limit is set, in EUR: the largest result, either way,
 * of the sessions before today; one percent of equity where there was none.
 *
 * @param today the trading day, `2026-03-02`; it counts for nothing, so that the scale stands still all day
 */
export function scaleWithoutLimit(
  days: readonly { readonly day: string; readonly net: string }[],
  today: string | undefined,
  equity: string | undefined,
): number {
  const before = days.filter(({ day }) => day !== today).slice(-SCALE_SESSIONS);
  const largest = Math.max(0, ...before.map(({ net }) => Math.abs(Number(net))));
  return largest > 0 ? largest : Math.max(1, Number(equity ?? 0) * SHARE_OF_EQUITY);
}
