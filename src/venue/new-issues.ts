import type { Price } from '../core/instrument/index.ts';
import type { Application, NewIssue } from '../core/portfolio/index.ts';
import { Chance, textKey } from '../core/random/index.ts';

/** A new issue with how it will go, which nobody outside is told before it is allotted. */
export interface OfferedIssue extends NewIssue {
  readonly price: null;
  readonly outcome: {
    readonly price: Price;
    /** The chance of each lot, over 0 and at most 1. */
    readonly share: number;
    readonly seed: number;
  };
}

/** An issue as everybody may know it at a time. */
export function asTold({ outcome, ...issue }: OfferedIssue, time: number): NewIssue {
  return { ...issue, price: time >= issue.allottedAt ? outcome.price : null };
}

/** How many lots an application gets: none below the issue price, else each is drawn by itself, for one seed always the same. */
function lotsDrawn({ id, outcome }: OfferedIssue, { account, lots, price }: Pick<Application, 'account' | 'lots' | 'price'>): number {
  if (price < outcome.price) return 0;
  const chance = new Chance(outcome.seed, textKey(id), textKey(account));
  let drawn = 0;
  for (let i = 0; i < lots; i++) if (chance.next() < outcome.share) drawn++;
  return drawn;
}

type Issues = ReadonlyMap<string, OfferedIssue>;

const isOpen = ({ issue, state }: Application, issues: Issues, time: number): boolean => state === 'requested' && time < (issues.get(issue)?.closesAt ?? 0);

/**
 * An application, or a change of one, as it comes: too late, the first ends and the second changes nothing.
 *
 * @returns how it stands then; null where it was had before
 */
export function asApplied(mine: readonly Application[] = [], asked: Application, issues: Issues, time: number): Application | null {
  const found = mine.find(({ id }) => id === asked.id);
  if (found && found.revision >= asked.revision) return null;
  const now = { ...asked, requestedAt: found?.requestedAt ?? time, changedAt: time };
  if (isOpen(found ?? asked, issues, time)) return now;
  return found ? { ...found, revision: asked.revision } : { ...now, state: 'canceled' };
}

/** An application that is taken back in time; null where nothing changes. */
export function takenBack(mine: readonly Application[] = [], id: string, issues: Issues, time: number): Application | null {
  const found = mine.find((one) => one.id === id);
  return found && isOpen(found, issues, time) ? { ...found, state: 'canceled', changedAt: time } : null;
}

/** What an application gets, once its issue is allotted; null before, and where it was decided already. */
export function allotted(application: Application, issue: OfferedIssue, time: number): Application | null {
  if (application.state !== 'requested' || issue.allottedAt > time) return null;
  const allottedLots = lotsDrawn(issue, application);
  return { ...application, state: allottedLots > 0 ? 'allotted' : 'unsuccessful', allottedLots, issuePrice: issue.outcome.price };
}
