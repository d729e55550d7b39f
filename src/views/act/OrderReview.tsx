import { useEffect, useState } from 'react';
import type { OrderWish } from '../../client/gestures/index.ts';
import type { FormValues } from '../../client/order-form.ts';
import { BLOCKING_RULES } from '../../core/risk/index.ts';
import { Button } from '../../kit/Button.tsx';
import { problemWords, type ApiPreview, type Problem } from '../../live/index.ts';
import { Wrong } from './checked.tsx';
import { useAsked } from './queries.tsx';

/** What is known of what an order would do. */
export type Review =
  { readonly state: 'waiting' } | { readonly state: 'known'; readonly preview: ApiPreview } | { readonly state: 'refused'; readonly problem: Problem };

/** What a trader sets himself; what else is checked is the venue's and the broker's. */
const RULES: ReadonlySet<string> = new Set(BLOCKING_RULES.filter((rule) => rule !== 'buyingPower'));

const PREVIEW_AFTER_MS = 180;
const PREVIEW_AGAIN_MS = 1500;

/** Asks what an order would do, a moment after it was last changed, and again while it is looked at. */
export function useReview(wish: OrderWish | null): Review {
  const text = JSON.stringify(wish);
  const [still, setStill] = useState('null');
  useEffect(() => {
    const timer = setTimeout(() => setStill(text), PREVIEW_AFTER_MS);
    return () => clearTimeout(timer);
  }, [text]);
  const body = JSON.parse(still) as object | null;
  const { data, error } = useAsked('POST /api/orders/preview', { body: body ?? {} }, { everyMs: PREVIEW_AGAIN_MS, when: body !== null });
  if (error) return { state: 'refused', problem: error.problem };
  return data ? { state: 'known', preview: data } : { state: 'waiting' };
}

/** Sentence, cost and checks of the order; what would be accepted instead are buttons that fill the form. */
export function ReviewLines({ review, wrong = null, fill }: { review: Review; wrong?: string | null; fill: (values: Partial<FormValues>) => void }) {
  if (wrong !== null)
    return (
      <div className="min-h-[54px]">
        <Wrong>{wrong}</Wrong>
      </div>
    );
  if (review.state === 'waiting') return <p className="text-quiet min-h-[54px]">looking …</p>;
  if (review.state === 'refused' && review.problem.status === 0) return <p className="text-quiet min-h-[54px]">No link: what it would do can’t be told now.</p>;
  if (review.state === 'refused') {
    const { problem } = review;
    const { suggestion } = problem;
    return (
      <div className="min-h-[54px]">
        <p className="plate heather whitespace-normal">{problemWords(problem)}</p>
        <div className="mt-1 flex flex-wrap gap-1">
          {problem.errors?.flatMap((error) =>
            (error.nearest ?? []).map((value) => (
              <Button key={`${error.path} ${value}`} className="figure" onClick={() => fill({ [error.path.slice(1)]: value })}>
                {value}
              </Button>
            )),
          )}
          {suggestion && 'type' in suggestion && (
            <Button onClick={() => fill({ type: 'limit', limitPrice: suggestion.limitPrice })}>limit {suggestion.limitPrice}</Button>
          )}
        </div>
      </div>
    );
  }
  const { sentence, estimate, checks, openRisk } = review.preview;
  const stopped = checks.filter(({ result }) => result !== 'pass');
  const left = checks.filter(({ rule, result }) => result === 'pass' && RULES.has(rule));
  return (
    <div className="min-h-[54px]">
      <p>{sentence}</p>
      <p className="text-quiet">
        value <span className="figure text-ink">{estimate.value}</span> · fees <span className="figure text-ink">{estimate.fees}</span> · margin{' '}
        <span className="figure text-ink">{estimate.margin}</span>
        {estimate.averagePrice !== null && (
          <>
            {' '}
            · fills at about <span className="figure text-ink">{estimate.averagePrice}</span>
          </>
        )}
        {openRisk.after !== null && (
          <>
            {' '}
            · its stops could lose <span className="figure text-ink">{openRisk.order}</span>: open risk{' '}
            <span className="figure text-ink">{openRisk.before}</span> → <span className="figure text-ink">{openRisk.after}</span>
          </>
        )}
      </p>
      {left.length > 0 && (
        <p className="text-quiet" data-what-is-left>
          what is left: {left.map(({ message }) => message).join(' · ')}
        </p>
      )}
      {stopped.map(({ rule, result, message }) => (
        <p key={rule} className="plate heather whitespace-normal">
          {result === 'warn' && 'A warning: '}
          {message}
        </p>
      ))}
    </div>
  );
}
