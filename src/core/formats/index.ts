export { type TapeProblem, type TapeRow, parseTape } from './tape.ts';
