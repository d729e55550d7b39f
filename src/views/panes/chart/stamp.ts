/** The one font of all charts. */
export const CHART_FONT = "12px 'Recursive Variable'";
/** A stamp's height, its baseline in the middle; wide enough for every baseline of 12 px letters. */
const STAMP_PX = 28;
const KEPT = 800;

interface Stamp {
  readonly image: CanvasImageSource | null;
  readonly width: number;
}

const stamps = new Map<string, Stamp>();
let press: OffscreenCanvasRenderingContext2D | null = null;

/**
 * Draws a text as `fillText` would, with the context's colour, alignment and baseline, out of a store of texts drawn
 * before: shaping letters takes most of a chart's frame, and an axis says the same ones again and again.
 */
export function stampText(ctx: CanvasRenderingContext2D, text: string, x: number, y: number): void {
  const ratio = ctx.getTransform().a;
  const key = `${ratio} ${ctx.textBaseline} ${ctx.fillStyle as string} ${text}`;
  let stamp = stamps.get(key);
  // What was used last stays longest.
  if (stamp) stamps.delete(key);
  else stamp = cut(text, ctx.fillStyle as string, ctx.textBaseline, ratio);
  stamps.set(key, stamp);
  if (stamps.size > KEPT) stamps.delete(stamps.keys().next().value as string);
  if (!stamp.image) return;
  const left = ctx.textAlign === 'right' ? x - stamp.width : ctx.textAlign === 'center' ? x - stamp.width / 2 : x;
  // On whole device pixels: a stamp between two would blur.
  const whole = (at: number): number => Math.round(at * ratio) / ratio;
  ctx.drawImage(stamp.image, whole(left), whole(y) - STAMP_PX / 2, stamp.width, STAMP_PX);
}

function cut(text: string, ink: string, baseline: CanvasTextBaseline, ratio: number): Stamp {
  press ??= new OffscreenCanvas(1, 1).getContext('2d');
  if (!press || text === '') return { image: null, width: 0 };
  press.font = CHART_FONT;
  const width = Math.ceil(press.measureText(text).width * ratio) / ratio;
  press.canvas.width = Math.max(1, width * ratio);
  press.canvas.height = STAMP_PX * ratio;
  press.font = CHART_FONT;
  press.scale(ratio, ratio);
  press.fillStyle = ink;
  press.textBaseline = baseline;
  press.fillText(text, 0, STAMP_PX / 2);
  return { image: press.canvas.transferToImageBitmap(), width };
}
