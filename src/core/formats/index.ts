export { type TapeProblem, parseTape } from './tape.ts';
export { type FillText, type ReportedOrder, fixExecutionReport } from './fills.ts';
