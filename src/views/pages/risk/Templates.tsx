import { useState } from 'react';
import { readShaped } from '../../../client/json-text.ts';
import { namedThings } from '../../../client/saved-remote.ts';
import { thingsOf } from '../../../client/things.ts';
import { RULE_NAMES, RULE_WORDS, type RuleName, type RulesText } from '../../../core/risk/index.ts';
import { shapeErrors } from '../../act/checked.tsx';
import { JsonFile } from '../../act/JsonFile.tsx';
import { KeptSets } from '../../act/KeptSets.tsx';
import { Section } from '../settings/Section.tsx';
import { NO_RULES_TEXT, TEMPLATES, takenUp } from './templates.ts';

const templates = thingsOf<RulesText>('rule-templates', 'the rule template', { remote: namedThings('rule-templates'), first: () => NO_RULES_TEXT });

interface TemplatesProps {
  /** The rules as they are typed, where they can be read. */
  readonly now: RulesText | null;
  readonly set: RulesText;
  readonly locked: readonly RuleName[];
  readonly onTake: (rules: RulesText) => void;
}

/** Rules to begin from: those that come along, and the trader's own, for any account. */
export function Templates({ now, set, locked, onTake }: TemplatesProps) {
  const [said, setSaid] = useState<string | null>(null);
  const take = (name: string, template: Partial<RulesText>): void => {
    const { rules, stayed } = takenUp(template, set, locked);
    onTake(rules);
    setSaid(
      `The fields are as in ${name}${stayed.length === 0 ? '' : `, but for what is locked and would be looser: ${stayed.map((one) => RULE_WORDS[one]).join(', ')}`}. Nothing counts until it is set.`,
    );
  };
  const open = async (text: string, file: string): Promise<void> => {
    const read = await readShaped<RulesText>(text, (body) => shapeErrors('rules', body));
    if (read.ok) take(file, read.value);
    else setSaid(`${file}: ${read.refusal} Nothing was taken.`);
  };
  return (
    <Section title="Templates" about="Rules to begin from, in any account. What you keep here is yours; a lock is not undone by any of them.">
      <div className="mb-1 flex flex-col gap-1">
        {TEMPLATES.map(({ name, about, rules }) => (
          <button key={name} type="button" className="min-h-[24px] text-left" onClick={() => take(name, rules)}>
            {name} <span className="text-quiet">{about}</span>
          </button>
        ))}
      </div>
      <div className="max-w-[420px]">
        <KeptSets
          kind="rule-templates"
          what="template"
          things={templates}
          now={now !== null && RULE_NAMES.some((name) => now[name] !== null) ? now : null}
          onTake={take}
        />
      </div>
      <div className="mt-2 flex gap-1">
        <JsonFile what="rules" saved={now === null ? null : { file: 'kavix-rules.json', value: now }} onText={(text, file) => void open(text, file)} />
      </div>
      {said !== null && (
        <p role="status" className="mt-2">
          {said}
        </p>
      )}
    </Section>
  );
}
