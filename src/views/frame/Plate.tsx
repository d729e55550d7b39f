import { useStore } from '@nanostores/react';
import { useEffect, useRef, useState } from 'react';
import { $platePlans, planFor, setPlanFor } from '../../client/exit-plans.ts';
import { $directSend, $sizes, DIRECT_SENDS, canTrade, setDirectSend, sizeOf } from '../../client/session.ts';
import { Choice } from '../../kit/Choice.tsx';
import { InstrumentName } from '../../kit/Instrument.tsx';
import { Popover, PopoverClose } from '../../kit/Popover.tsx';
import { MENU_ITEM } from '../../kit/Menu.tsx';
import { $session } from '../../live/index.ts';
import { SizeChoice } from '../act/SizeChoice.tsx';
import { useSavedPlans } from '../act/queries.tsx';
import { $aimed } from '../act/order-area.ts';
import { $page } from '../pages/route.ts';
import { $activePane, $panes, $target, $targetChanged, setAccount, surfaceOf } from '../workspace/panes.ts';

const SAID = { off: 'every gesture opens the slip', 'exits only': 'what closes goes at once', all: 'every gesture sends at once' } as const;

/** The words that keys and gestures act on. A press on one changes it there. */
export function Plate() {
  const target = useStore($target);
  const active = useStore($activePane);
  const panes = useStore($panes);
  const direct = useStore($directSend);
  const aimed = useStore($aimed);
  useStore($sizes);
  const page = useStore($page);
  const changed = useStore($targetChanged);
  const session = useStore($session);
  const [focused, setFocused] = useState(true);
  const plate = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const update = (): void => setFocused(document.hasFocus());
    update();
    window.addEventListener('focus', update);
    window.addEventListener('blur', update);
    return () => {
      window.removeEventListener('focus', update);
      window.removeEventListener('blur', update);
    };
  }, []);
  useEffect(() => {
    if (matchMedia('(prefers-reduced-motion: reduce)').matches) return;
    plate.current?.animate([{ opacity: 0.4 }, { opacity: 1 }], 300);
  }, [changed]);
  const kind = active === null ? undefined : panes[active]?.kind;
  const surface = kind ? surfaceOf(kind) : null;
  // What is aimed at may go at once though most would open the slip.
  const atOnce = surface !== null && (aimed?.pane === active ? aimed.sends : direct[surface] === 'all');
  const look = focused ? 'bg-lamp text-[var(--letters)]' : 'border border-lamp text-ink';
  return (
    <div
      ref={plate}
      className={`flex h-[26px] w-[320px] min-w-[216px] items-center gap-2 overflow-hidden rounded-[2px] px-2 ${look} [&_*]:text-inherit`}
      role="group"
      aria-label="Key target"
    >
      {!focused ? (
        <span>keys are elsewhere</span>
      ) : target === null || page !== null ? (
        <span>no target: keys do nothing</span>
      ) : (
        <>
          <button type="button" className="shrink-0" onClick={() => window.dispatchEvent(new CustomEvent('kavix-find', { detail: '' }))}>
            <InstrumentName id={target.instrument} />
          </button>
          <Popover
            label="Account"
            trigger={
              <button type="button" className="shrink-0">
                {target.account}
              </button>
            }
          >
            {(session?.accounts ?? []).map((account) => (
              <PopoverClose key={account}>
                <button type="button" className={MENU_ITEM} disabled={!canTrade(account, target.instrument)} onClick={() => setAccount(target.pane, account)}>
                  {account}
                </button>
              </PopoverClose>
            ))}
          </Popover>
          <SizeChoice
            account={target.account}
            instrument={target.instrument}
            trigger={(text) => (
              <button type="button" className="figure shrink-0 font-bold">
                {text}
              </button>
            )}
          />
          <PlatePlan account={target.account} instrument={target.instrument} />
          {surface && (
            <Choice
              label={`Direct send, ${surface}`}
              value={direct[surface]}
              options={DIRECT_SENDS.map((one) => ({ value: one, words: one, about: SAID[one] }))}
              onPick={(picked) => setDirectSend(surface, picked)}
              className={`ml-auto shrink-0 rounded-[2px] border border-current px-1 text-[11px] leading-[16px] ${atOnce ? '' : 'border-dashed'}`}
            >
              {atOnce ? 'SENDS AT ONCE' : 'OPENS SLIP'}
            </Choice>
          )}
          <span className="sr-only">size {sizeOf(target.account, target.instrument)}</span>
        </>
      )}
    </div>
  );
}

/** The exit plan that goes on every entry of the target by itself. */
function PlatePlan({ account, instrument }: { account: string; instrument: string }) {
  useStore($platePlans);
  const { data } = useSavedPlans();
  const name = planFor(account, instrument);
  const options = [
    { value: '', words: 'no exit plan', about: 'entries go without' },
    ...(data?.items ?? []).map((plan) => ({
      value: plan.name,
      words: plan.name,
      about: `${plan.steps.length} step${plan.steps.length === 1 ? '' : 's'}, held ${plan.heldBy === 'here' ? 'here' : 'at the venue'}`,
    })),
  ];
  return (
    <Choice
      label="Exit plan on entries"
      value={name ?? ''}
      options={options}
      onPick={(picked) => setPlanFor(account, instrument, picked === '' ? null : picked)}
      className={`min-w-0 truncate ${name === null ? 'opacity-70' : ''}`}
    >
      {name ?? 'no plan'}
    </Choice>
  );
}
