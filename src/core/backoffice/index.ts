export { type ClosedLot, type LotMethod, LOT_METHODS, Lots } from './lots.ts';
export { type Movement, type Purpose, type StatementDay, ASSETS, MOVEMENT_KINDS, PURPOSES, CashBook, mainPlace } from './cash-book.ts';
export { type ContractNote, contractNotes } from './notes.ts';
export { type Share, sharesOf } from './shares.ts';
