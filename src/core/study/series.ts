import type { BarColumns, Parameters, StudyDefinition } from './definition.ts';

/** A study's values over bars that grow: brought forward from where something changed. */
export class StudySeries {
  readonly definition: StudyDefinition;
  readonly parameters: Parameters;
  private columns: Float64Array[];
  private known = 0;

  constructor(definition: StudyDefinition, parameters: Parameters) {
    this.definition = definition;
    this.parameters = parameters;
    this.columns = this.newColumns(64);
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
    if (bars.length > (this.columns[0]?.length ?? Infinity)) {
      const grown = this.newColumns(Math.max(bars.length, (this.columns[0]?.length ?? 0) * 2));
      grown.forEach((column, i) => column.set((this.columns[i] as Float64Array).subarray(0, from)));
      this.columns = grown;
    }
    this.definition.compute(bars, this.parameters, this.columns, from);
    this.known = bars.length;
  }

  private newColumns(length: number): Float64Array[] {
    const { lines, hidden } = this.definition;
    return Array.from({ length: lines.length + hidden }, () => new Float64Array(length));
  }
}
