export { type ClosedLot, type LotMethod, type SavedLots, LOT_METHODS, Lots } from './lots.ts';
export {
  type Movement,
  type Purpose,
  type SavedCash,
  type StatementDay,
  ASSETS,
  MOVEMENT_KINDS,
  PURPOSES,
  CashBook,
  mainPlace,
  placesOf,
  statement,
} from './cash-book.ts';
export { type ContractNote, contractNotes } from './notes.ts';
export { type Share, sharesOf } from './shares.ts';
