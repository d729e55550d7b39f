import type { BarColumns, Parameters, StudyDefinition } from './definition.ts';

/** A study's values over bars that grow: brought forward from where something changed. */
export class StudySeries {
  readonly definition: StudyDefinition;
  readonly parameters: Parameters;
  private columns: Float64Array[] = [];
  private room = 0;
  private known = 0;

  constructor(definition: StudyDefinition, parameters: Parameters) {
    this.definition = definition;
    this.parameters = parameters;
  }

  /** The values of a line, one a bar, NaN where it has none. Valid until the next update. */
  line(at: number): Float64Array {
    return this.columns[at] as Float64Array;
  }

  /**
   * Brings the values up to the bars.
   *
   * @param changedFrom the first bar that changed since the last update; 0 after older bars were put before
   */
  update(bars: BarColumns, changedFrom: number): void {
    const from = Math.max(0, Math.min(changedFrom, this.known));
    if (bars.length > this.room) this.grow(Math.max(bars.length, this.room * 2), from);
    this.definition.compute(bars, this.parameters, this.columns, from);
    this.known = bars.length;
  }

  /** Makes room for so many bars, keeping the values before `from`. All columns lie in one buffer. */
  private grow(room: number, from: number): void {
    const { lines, hidden } = this.definition;
    const count = lines.length + hidden;
    const buffer = new Float64Array(room * count);
    const grown = Array.from({ length: count }, (_, i) => buffer.subarray(i * room, (i + 1) * room));
    if (from > 0) grown.forEach((column, i) => column.set((this.columns[i] as Float64Array).subarray(0, from)));
    this.columns = grown;
    this.room = room;
  }
}
