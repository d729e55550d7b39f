/** What one frame may spend; the rest is painted in the next. */
const FRAME_MS = 1;

/** Things painted at one pace, in rounds: of several paints for one key the newest counts. */
class Lane {
  private readonly paceMs: number;
  /** What waits for the next round, and what this round has still to paint. */
  private readonly due = new Map<object, () => void>();
  private readonly round = new Map<object, () => void>();
  private beganAt = -Infinity;

  constructor(paceMs: number) {
    this.paceMs = paceMs;
  }

  add(key: object, paint: () => void): void {
    this.due.set(key, paint);
  }

  drop(key: object): void {
    this.due.delete(key);
    this.round.delete(key);
  }

  /** Milliseconds until it has something to paint; 0 for at once, infinite where nothing waits. */
  wait(now: number): number {
    if (this.round.size > 0) return 0;
    return this.due.size > 0 ? Math.max(0, this.beganAt + this.paceMs - now) : Infinity;
  }

  paint(now: number): void {
    if (this.round.size === 0) {
      this.beganAt = now;
      for (const [key, paint] of this.due) this.round.set(key, paint);
      this.due.clear();
    }
    for (const [key, paint] of this.round) {
      this.round.delete(key);
      paint();
      if (performance.now() - now > FRAME_MS) break;
    }
  }
}

/** Every second frame of a screen of 60 a second, so that a figure stands 60 ms after it was heard; with more the timer would miss it. */
const figures = new Lane(25);
/** Every fourth: a curve or a fading ground is not read as it moves, and costs more. */
const pictures = new Lane(58);

/** When the next frame is asked for: in the past while it is, infinite where nothing waits; and the timer that will. */
let askAt = Infinity;
let timer: ReturnType<typeof setTimeout> | undefined;
/** Frames of figures since the last of pictures, and how many there may be. */
let inRow = 0;
const IN_ROW = 2;

/** One frame is one lane's, together they would make it late. Figures go first, but not three times in a row while pictures wait. */
function frame(): void {
  askAt = Infinity;
  const now = performance.now();
  const [figured, drawn] = [figures.wait(now) === 0, pictures.wait(now) === 0];
  if (figured && !(drawn && inRow >= IN_ROW)) {
    inRow++;
    figures.paint(now);
  } else if (drawn) {
    inRow = 0;
    pictures.paint(now);
  }
  plan();
}

function ask(): void {
  askAt = -Infinity;
  requestAnimationFrame(frame);
}

/** Asks for a frame, unless one is asked for that comes as soon. */
function plan(): void {
  if (askAt === -Infinity) return;
  const now = performance.now();
  const wait = Math.min(figures.wait(now), pictures.wait(now));
  if (now + wait >= askAt) return;
  clearTimeout(timer);
  askAt = now + wait;
  if (wait === 0) ask();
  else timer = setTimeout(ask, wait);
}

/**
 * Writes figures soon, together with all else that is due: in one frame, or over the next ones when there is much, so
 * that none is late. Of several paints for one key the newest counts. After a quiet moment it is the very next frame.
 */
export function paintSoon(key: object, paint: () => void): void {
  figures.add(key, paint);
  plan();
}

/** The same for what is drawn, at a slower pace. */
export function drawSoon(key: object, draw: () => void): void {
  pictures.add(key, draw);
  plan();
}

/** Takes back what was to be painted for a key. */
export function paintNoMore(key: object): void {
  figures.drop(key);
  pictures.drop(key);
}
