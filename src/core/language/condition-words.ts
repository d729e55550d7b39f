import { printValue, type Condition, type Value } from './condition-phrase.ts';

/** A condition in one sentence that anybody can read. */
export function readConditionWords(condition: Condition): string {
  const said = words(condition);
  return `${said.charAt(0).toUpperCase()}${said.slice(1)}.`;
}

const COMPARED = {
  '<': 'is below',
  '<=': 'is at most',
  '=': 'is',
  '>=': 'is at least',
  '>': 'is above',
  is: 'is',
  'is not': 'is not',
} as const;

const FLAGGED = {
  halted: 'it is halted',
  'open now': 'it can be traded now',
  held: 'you hold it',
  'has orders': 'you have working orders in it',
  optionable: 'there are options on it',
} as const;

function words(condition: Condition): string {
  switch (condition.kind) {
    case 'and':
      return `${grouped(condition.left)} and ${grouped(condition.right)}`;
    case 'or':
      return `${words(condition.left)}, or ${words(condition.right)}`;
    case 'not':
      return `it is not so that ${words(condition.of)}`;
    case 'compare':
      return `${valueWords(condition.left)} ${COMPARED[condition.compare]} ${valueWords(condition.right)}`;
    case 'between':
      return `${valueWords(condition.value)} is from ${valueWords(condition.low)} to ${valueWords(condition.high)}`;
    case 'near':
      return `${valueWords(condition.value)} is no further than ${printValue(condition.distance)} from ${valueWords(condition.of)}`;
    case 'event': {
      const other = condition.other ? ` ${valueWords(condition.other)}` : '';
      const lately = condition.within === null ? '' : `, in one of the last ${condition.within} bars`;
      return `${valueWords(condition.value)} ${condition.event}${other}${lately}`;
    }
    case 'flag':
      return FLAGGED[condition.flag];
    case 'watched':
      return `it is in the watchlist “${condition.list}”`;
    default:
      return condition satisfies never;
  }
}

const grouped = (condition: Condition): string => (condition.kind === 'or' ? `either ${words(condition)}` : words(condition));

function valueWords(value: Value): string {
  switch (value.kind) {
    case 'number':
    case 'word':
      return printValue(value);
    case 'field':
    case 'study':
    case 'span':
    case 'change over': {
      const { of, ...rest } = value;
      const said = printValue({ ...rest, of: null });
      return of ? `the ${said} of ${of.text}` : `the ${said}`;
    }
    case 'minus':
    case 'sum':
    case 'product':
      return printValue(value);
    default:
      return value satisfies never;
  }
}
