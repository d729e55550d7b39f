export { type TapeProblem, TAPE_HEAD, parseTape, tapeLine } from './tape.ts';
export { type FillText, type ReportedOrder, fixExecutionReport } from './fills.ts';
