import { openSync, writeSync } from 'node:fs';

const FLUSH_MS = 200;
const MOST_LINES = 2000;

/**
 * A tape that is written as the market goes: whole lines, never over a file that is there already. Where it can't be
 * written any more the recording ends, and the market goes on.
 */
export class TapeFile {
  private readonly handle: number;
  private readonly onEnd: (error: Error) => void;
  private lines: string[] = [];
  private ended = false;

  /**
   * @param onEnd is told once, where it can't be written any more
   * @throws where the file is there, or can't be written
   */
  constructor(path: string, onEnd: (error: Error) => void) {
    this.handle = openSync(path, 'wx');
    this.onEnd = onEnd;
    setInterval(() => this.flush(), FLUSH_MS).unref();
  }

  write(line: string): void {
    if (this.ended) return;
    this.lines.push(line);
    if (this.lines.length >= MOST_LINES) this.flush();
  }

  flush(): void {
    if (this.lines.length === 0) return;
    const text = `${this.lines.join('\n')}\n`;
    this.lines = [];
    try {
      writeSync(this.handle, text);
    } catch (error) {
      this.ended = true;
      this.onEnd(error as Error);
    }
  }
}
