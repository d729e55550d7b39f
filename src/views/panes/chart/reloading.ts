/** Loads what is wished: when the wish is another one, when asked, and every so often. What comes too late is dropped. */
export class Reloading<W, T> {
  private wished: { readonly wish: W; readonly key: string } | null = null;
  private asked = 0;
  private readonly timer: ReturnType<typeof setInterval>;
  private readonly load: (wish: W) => Promise<T>;
  private readonly got: (found: T) => void;

  constructor(everyMs: number, load: (wish: W) => Promise<T>, got: (found: T) => void) {
    this.load = load;
    this.got = got;
    this.timer = setInterval(() => this.again(), everyMs);
  }

  wish(wish: W): void {
    const key = JSON.stringify(wish);
    if (key === this.wished?.key) return;
    this.wished = { wish, key };
    this.again();
  }

  again(): void {
    if (!this.wished) return;
    const asked = ++this.asked;
    void this.load(this.wished.wish).then((found) => {
      if (asked === this.asked) this.got(found);
    });
  }

  stop(): void {
    clearInterval(this.timer);
    this.asked++;
    this.wished = null;
  }
}
