import type { ReactNode } from 'react';
import { INSTRUMENT_KINDS } from '../../../core/instrument/index.ts';
import type { RuleName, RuleProblem, RulesText } from '../../../core/risk/index.ts';
import { Button } from '../../../kit/Button.tsx';
import { Choice } from '../../../kit/Choice.tsx';

interface Props {
  readonly rules: RulesText;
  /** Until when which rules are locked. */
  readonly locked: ReadonlyMap<RuleName, string>;
  readonly problems: readonly RuleProblem[];
  readonly onChange: (to: Partial<RulesText>) => void;
}

type FigureRule = 'dayLossLimit' | 'instrumentLossLimit' | 'maxOrderQuantity' | 'maxOrderValue' | 'maxDistancePercent' | 'maxPositionQuantity';
type CountRule = 'maxOrdersPerMinute' | 'coolDownMinutes' | 'coolDownAfterLosses';

const ACTS = [
  { value: 'block', words: 'blocks', about: 'open positions stay' },
  { value: 'close-out', words: 'closes out', about: 'positions are closed at market' },
] as const;
const KINDS = INSTRUMENT_KINDS.filter((kind) => kind !== 'index');

/** The fields of all rules; an empty one is no rule. */
export function RuleFields({ rules, locked, problems, onChange }: Props) {
  const wrong = (path: string): string | undefined => problems.find((one) => one.path === path)?.message;
  const figure = (name: FigureRule, label: string, unit: string) => (
    <Row label={label} until={locked.get(name)} wrong={wrong(`/${name}`)}>
      <input
        className="field figure w-[104px]"
        aria-label={label}
        aria-invalid={wrong(`/${name}`) !== undefined}
        value={rules[name] ?? ''}
        placeholder="none"
        onChange={(event) => onChange({ [name]: event.target.value.trim() === '' ? null : event.target.value.trim() })}
      />
      <span className="w-[40px] text-quiet">{unit}</span>
    </Row>
  );
  const count = (name: CountRule, label: string, unit: string) => (
    <Row label={label} until={locked.get(name)}>
      <input
        className="field figure w-[104px]"
        inputMode="numeric"
        aria-label={label}
        value={rules[name] ?? ''}
        placeholder="none"
        onChange={(event) => {
          const number = Number(event.target.value.replace(/\D/g, ''));
          onChange({ [name]: number > 0 ? number : null });
        }}
      />
      <span className="w-[40px] text-quiet">{unit}</span>
    </Row>
  );
  return (
    <div className="flex flex-col gap-1">
      {figure('dayLossLimit', 'Day loss limit, net of fees', 'EUR')}
      {rules.dayLossLimit !== null && (
        <Row label="when it is reached it" until={locked.get('onDayLoss')} wrong={wrong('/onDayLoss')}>
          <Choice label="When the day limit is reached" value={rules.onDayLoss ?? 'block'} options={ACTS} onPick={(onDayLoss) => onChange({ onDayLoss })} />
        </Row>
      )}
      {figure('instrumentLossLimit', 'Loss limit of one instrument', 'EUR')}
      {rules.instrumentLossLimit !== null && (
        <Row label="when it is reached it" until={locked.get('onInstrumentLoss')} wrong={wrong('/onInstrumentLoss')}>
          <Choice
            label="When an instrument’s limit is reached"
            value={rules.onInstrumentLoss ?? 'block'}
            options={ACTS}
            onPick={(onInstrumentLoss) => onChange({ onInstrumentLoss })}
          />
        </Row>
      )}
      {count('coolDownMinutes', 'Cool-down', 'min')}
      {count('coolDownAfterLosses', 'after losing round trips in a row', '')}
      {figure('maxOrderQuantity', 'Largest order', 'units')}
      {figure('maxOrderValue', 'Largest value of an order', 'EUR')}
      {figure('maxPositionQuantity', 'Largest position', 'units')}
      {figure('maxDistancePercent', 'Furthest from the market', '%')}
      {count('maxOrdersPerMinute', 'Orders a minute', '')}
      <Row label="Open risk beyond what is left" until={locked.get('openRisk')}>
        <Choice
          label="Open risk beyond what is left of the day"
          value={rules.openRisk ?? 'none'}
          options={[
            { value: 'none', words: 'not looked at' },
            { value: 'warn', words: 'warned about' },
            { value: 'refuse', words: 'refused' },
          ]}
          onPick={(picked) => onChange({ openRisk: picked === 'none' ? null : picked })}
        />
      </Row>
      <Row label="Units a day, by kind" until={locked.get('dayQuantityCap')}>
        <span className="flex flex-wrap gap-1">
          {KINDS.map((kind) => (
            <input
              key={kind}
              className="field figure w-[64px]"
              aria-label={`Units a day, ${kind}`}
              placeholder={kind}
              value={rules.dayQuantityCap?.[kind] ?? ''}
              onChange={(event) => {
                const { [kind]: _before, ...rest } = rules.dayQuantityCap ?? {};
                const next = event.target.value.trim() === '' ? rest : { ...rest, [kind]: event.target.value.trim() };
                onChange({ dayQuantityCap: Object.keys(next).length === 0 ? null : next });
              }}
            />
          ))}
        </span>
      </Row>
      <Windows rules={rules} until={locked.get('noTradeWindows')} onChange={onChange} />
    </div>
  );
}

function Row({ label, until, wrong, children }: { label: string; until?: string | undefined; wrong?: string | undefined; children: ReactNode }) {
  return (
    <div className="grid min-h-[26px] grid-cols-[250px_1fr] items-center gap-x-2">
      <span>
        {label}
        {until !== undefined && (
          <span className="ml-2 text-[12px] text-quiet" title={`Locked until ${until}: it can only be tightened.`}>
            locked
          </span>
        )}
      </span>
      <span className="flex items-center gap-2">{children}</span>
      {wrong !== undefined && <span className="plate heather col-span-2 whitespace-normal">{wrong}</span>}
    </div>
  );
}

function Windows({ rules, until, onChange }: Pick<Props, 'rules' | 'onChange'> & { until: string | undefined }) {
  const windows = rules.noTradeWindows ?? [];
  const set = (next: typeof windows): void => onChange({ noTradeWindows: next.length === 0 ? null : next });
  return (
    <Row label="No-trade windows, exchange time" until={until}>
      <span className="flex flex-col items-start gap-1">
        {windows.map((window, i) => (
          <span key={i} className="flex items-center gap-1">
            {(['from', 'to'] as const).map((end) => (
              <input
                key={end}
                type="time"
                className="field figure"
                aria-label={`Window ${i + 1}, ${end}`}
                value={window[end]}
                onChange={(event) => set(windows.map((one, at) => (at === i ? { ...one, [end]: event.target.value } : one)))}
              />
            ))}
            <Button size="small" onClick={() => set(windows.filter((_, at) => at !== i))} aria-label={`drop window ${i + 1}`}>
              drop
            </Button>
          </span>
        ))}
        <Button size="small" onClick={() => set([...windows, { from: '09:00', to: '09:05' }])}>
          one more window
        </Button>
      </span>
    </Row>
  );
}
