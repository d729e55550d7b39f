import { openSync, writeSync } from 'node:fs';

const FLUSH_MS = 200;
const MOST_LINES = 2000;

/** A tape that is written as the market goes: whole lines, never over a file that is there already. */
export class TapeFile {
  private readonly handle: number;
  private lines: string[] = [];

  /** @throws where the file is there, or can't be written */
  constructor(path: string) {
    this.handle = openSync(path, 'wx');
    setInterval(() => this.flush(), FLUSH_MS).unref();
  }

  write(line: string): void {
    this.lines.push(line);
    if (this.lines.length >= MOST_LINES) this.flush();
  }

  flush(): void {
    if (this.lines.length === 0) return;
    writeSync(this.handle, `${this.lines.join('\n')}\n`);
    this.lines = [];
  }
}
