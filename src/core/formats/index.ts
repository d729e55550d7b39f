export { type TapeProblem, type TapeRow, parseTape } from './tape.ts';
export { type FillText, type ReportedOrder, fixExecutionReport } from './fills.ts';
