import type { SavedStore } from './saved.ts';

const KIND = 'consent';
const HELD_HERE = 'held-here';

export interface Consent {
  readonly given: boolean;
  /** Market time of the answer; null before any. */
  readonly at: number | null;
}

const NONE: Consent = { given: false, at: null };

/** Which users have agreed to what it means that exits are held here. Read once, then kept beside the store. */
export class Consents {
  private readonly known = new Map<string, Consent>();
  private readonly store: SavedStore;

  constructor(store: SavedStore) {
    this.store = store;
  }

  async load(users: Iterable<string>): Promise<void> {
    for (const user of users) {
      const found = await this.store.get(user, KIND, HELD_HERE);
      if (found) this.known.set(user, found.document as Consent);
    }
  }

  of(user: string): Consent {
    return this.known.get(user) ?? NONE;
  }

  /** Counts only once it is kept. */
  async put(user: string, consent: Consent): Promise<Consent> {
    await this.store.put(user, KIND, HELD_HERE, consent, Date.now(), 'anything');
    this.known.set(user, consent);
    return consent;
  }
}
