export { type PhraseError, type Span, LONGEST_PHRASE } from './tokens.ts';
export { type Read, PhraseFault, caught } from './reader.ts';
export { type OrderPhrase, type PriceText, parseOrder, parsePriceText, printOrder, printPrice } from './order-phrase.ts';
export { type OrderScene, type PhraseAccount } from './order-scene.ts';
export { type OrderReading, type PhraseAct, type PhraseRequest, readLimit, readOrderPhrase, subjectOf } from './read-order.ts';
export { listingMeant } from './listing.ts';
export { type BarField, type FieldName, type FlagName, type ValueType, FIELDS, FIELD_NAMES, FLAGS, FLAG_NAMES, fieldOf } from './fields.ts';
export {
  type Compare,
  type Condition,
  type EventName,
  type NamedInstrument,
  type Value,
  USABLE_STUDIES,
  parseCondition,
  printCondition,
  printValue,
} from './condition-phrase.ts';
export { readConditionWords } from './condition-words.ts';
export { BROUGHT_KEYS, type Binding, type BindingProblem, bindingProblem, canonicalBinding, freeKey, keyName, keyProblem } from './binding.ts';
