import { expect } from 'chai';
import { RULE_NAMES, isLooser, readRules, type RulesText } from '../../src/core/risk/index.ts';
import { NO_RULES_TEXT, TEMPLATES, takenUp } from '../../src/views/pages/risk/templates.ts';

const read = (text: RulesText) => {
  const rules = readRules(text);
  if (!rules.ok) throw new Error(JSON.stringify(rules.refusal));
  return rules.value;
};

describe('a template of rules', () => {
  it('counts whole: what it does not name is no rule', () => {
    const set = { ...NO_RULES_TEXT, maxOrderValue: '1000', dayLossLimit: '50', onDayLoss: 'block' as const };
    expect(takenUp({ maxOrdersPerMinute: 6 }, set, [])).to.deep.equal({ rules: { ...NO_RULES_TEXT, maxOrdersPerMinute: 6 }, stayed: [] });
  });

  it('leaves a limit where the act that goes with it is locked', () => {
    const set = { ...NO_RULES_TEXT, dayLossLimit: '50', onDayLoss: 'close-out' as const };
    expect(takenUp({}, set, ['onDayLoss'])).to.deep.equal({ rules: set, stayed: ['onDayLoss', 'dayLossLimit'] });
    const larger = takenUp({ dayLossLimit: '80', onDayLoss: 'block' }, set, ['onDayLoss']);
    expect(larger).to.deep.equal({ rules: { ...set, dayLossLimit: '80' }, stayed: ['onDayLoss'] });
  });

  it('can be set over any other, with any rules locked: it loosens none of them', () => {
    for (const from of TEMPLATES)
      for (const to of [...TEMPLATES, { name: 'none', rules: {} }])
        for (const locked of [[], ...RULE_NAMES.map((name) => [name]), RULE_NAMES]) {
          const set: RulesText = { ...NO_RULES_TEXT, ...from.rules };
          const { rules } = takenUp(to.rules, set, locked);
          const looser = locked.filter((name) => isLooser(name, read(set), read(rules)));
          expect(looser, `${from.name} to ${to.name}, ${locked.join()} locked`).to.deep.equal([]);
        }
  });
});
