import { map } from 'nanostores';
import { LOST, problemWords, type Answer, type Problem } from '../live/index.ts';

/** A thing as the server has it: its value, and the mark by which a change says what it was made from. */
export interface Revised<T> {
  readonly value: T;
  readonly revision: string;
}

/** How a saved thing stands in this window. */
export type Saved<T> =
  | { readonly kind: 'loading' }
  /** It could not be read. Nothing is saved over it, and it is asked for again. */
  | { readonly kind: 'failed'; readonly problem: Problem }
  | {
      readonly kind: 'known';
      readonly value: T;
      /** What the value stands on; null while nothing is saved under its name. */
      readonly base: Revised<T> | null;
      readonly state: 'saved' | 'saving' | 'not saved';
      /** Why the server would not have it as it is; null unless that is so. */
      readonly problem: Problem | null;
      /** What another window or browser saved meanwhile, where the two could not be made one: the trader chooses. */
      readonly theirs: Revised<T> | null;
    };

/** Where things are kept. */
export interface Remote<T> {
  /** Null where nothing is saved under the name. */
  read(name: string): Promise<Answer<Revised<T> | null>>;
  /** Saves what was made from `base`: 409 where something else is saved by now. */
  write(name: string, value: T, base: string | null): Promise<Answer<Revised<T>>>;
  /** Missing where such things are always there. */
  drop?(name: string): Promise<Answer<null>>;
}

export interface SavedSettings<T> {
  readonly remote: Remote<T>;
  /** What is there under a name that nothing is saved under. */
  readonly first: (name: string) => T;
  /** Makes one of two changes to the same thing; null where that can't be done without losing something. */
  readonly merge?: (base: T | null, mine: T, theirs: T) => T | null;
  /** Changes within so long are saved together. */
  readonly saveAfterMs: number;
  readonly againMs: number;
  readonly say: (words: string) => void;
  /** What is wrong with a value is shown where it is written, and need not be said. */
  readonly showsProblems?: boolean;
  /** Other windows are told what was saved. */
  readonly tell: (name: string) => void;
}

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * Things of a kind that a user saves under names. One change of a thing is on its way at a time; what comes meanwhile
 * goes with the next. What could not be read is never saved over, and what somebody else saved meanwhile is never
 * overwritten: the two are made one, or the trader is asked.
 */
export class SavedThings<T> {
  /** Each by its name, as far as it was asked for. */
  readonly $all = map<Record<string, Saved<T> | undefined>>({});
  private readonly loads = new Map<string, Promise<Saved<T>>>();
  private readonly writes = new Map<string, Promise<void>>();
  private readonly timers = new Map<string, ReturnType<typeof setTimeout>>();
  private readonly settings: SavedSettings<T>;

  constructor(settings: SavedSettings<T>) {
    this.settings = settings;
  }

  get(name: string): Saved<T> | undefined {
    return this.$all.get()[name];
  }

  /** The value, as soon as it is known, however often it has to be asked for. */
  async known(name: string): Promise<T> {
    const thing = await this.load(name);
    if (thing.kind === 'known') return thing.value;
    return new Promise((resolve) => {
      const stop = this.$all.listen((all) => {
        const now = all[name];
        if (now?.kind !== 'known') return;
        stop();
        resolve(now.value);
      });
    });
  }

  /** The value, as far as it is known. */
  valueOf(name: string): T | undefined {
    const thing = this.get(name);
    return thing?.kind === 'known' ? thing.value : undefined;
  }

  /** Reads a thing that is not known yet. What can't be read is asked for again until it can. */
  load(name: string): Promise<Saved<T>> {
    const known = this.get(name);
    if (known?.kind === 'known') return Promise.resolve(known);
    let load = this.loads.get(name);
    if (!load) this.loads.set(name, (load = this.read(name).finally(() => this.loads.delete(name))));
    return load;
  }

  private async read(name: string): Promise<Saved<T>> {
    if (!this.get(name)) this.set(name, { kind: 'loading' });
    const found = await this.settings.remote.read(name);
    if (found.ok) return this.set(name, this.knownAs(name, found.value));
    this.later(name, this.settings.againMs, () => void this.load(name));
    return this.set(name, { kind: 'failed', problem: found.problem });
  }

  private knownAs(name: string, base: Revised<T> | null): Saved<T> {
    return { kind: 'known', value: base?.value ?? this.settings.first(name), base, state: 'saved', problem: null, theirs: null };
  }

  private set(name: string, thing: Saved<T>): Saved<T> {
    this.$all.setKey(name, thing);
    return thing;
  }

  private later(name: string, ms: number, then: () => void): void {
    clearTimeout(this.timers.get(name));
    this.timers.set(name, setTimeout(then, ms));
  }

  /**
   * Changes a thing and saves it a moment later.
   *
   * @returns false where it is not known, or waits for an answer about what somebody else saved: nothing changes then
   */
  change(name: string, change: (value: T) => T): boolean {
    const thing = this.get(name);
    if (thing?.kind !== 'known') {
      this.settings.say(`${name} was not read yet; nothing was changed`);
      return false;
    }
    if (thing.theirs !== null) {
      this.settings.say(`${name} was changed elsewhere too: choose which one stays first`);
      return false;
    }
    const value = change(thing.value);
    if (same(value, thing.value)) return true;
    this.set(name, { ...thing, value, state: 'saving' });
    this.later(name, this.settings.saveAfterMs, () => void this.flush(name));
    return true;
  }

  /** Saves what has changed now, and resolves when nothing is left to save or it can't be. */
  async flush(name: string): Promise<void> {
    clearTimeout(this.timers.get(name));
    await this.writes.get(name);
    const thing = this.get(name);
    if (thing?.kind !== 'known' || thing.state === 'saved' || thing.theirs !== null) return;
    const write = this.write(name, thing.value, thing.base).finally(() => this.writes.delete(name));
    this.writes.set(name, write);
    await write;
  }

  async flushAll(): Promise<void> {
    await Promise.all(Object.keys(this.$all.get()).map((name) => this.flush(name)));
  }

  private async write(name: string, value: T, base: Revised<T> | null): Promise<void> {
    const done = await this.settings.remote.write(name, value, base?.revision ?? null);
    if (done.ok) return this.written(name, value, done.value);
    if (done.problem.status === 409) return this.meet(name, value, base);
    const isRefused = done.problem.status !== 0 && done.problem.status < 500;
    this.mark(name, 'not saved', isRefused ? done.problem : null);
    if (isRefused) {
      if (!this.settings.showsProblems) this.settings.say(`${name} was not saved: ${problemWords(done.problem)}`);
      return;
    }
    this.later(name, this.settings.againMs, () => void this.flush(name));
  }

  private mark(name: string, state: 'saving' | 'not saved', problem: Problem | null = null): void {
    const thing = this.get(name);
    if (thing?.kind === 'known') this.set(name, { ...thing, state, problem });
  }

  /** What was written is what the next change stands on; what changed meanwhile is saved next. */
  private written(name: string, value: T, base: Revised<T>): void {
    const thing = this.get(name);
    if (thing?.kind !== 'known') return;
    const more = !same(thing.value, value);
    this.set(name, { ...thing, base, state: more ? 'saving' : 'saved', problem: null, theirs: null });
    if (more) this.later(name, this.settings.saveAfterMs, () => void this.flush(name));
    this.settings.tell(name);
  }

  /** Something else is saved by now: it may be this very change, whose answer was lost. */
  private async meet(name: string, mine: T, base: Revised<T> | null): Promise<void> {
    const found = await this.settings.remote.read(name);
    if (!found.ok) {
      this.mark(name, 'not saved');
      this.later(name, this.settings.againMs, () => void this.flush(name));
      return;
    }
    const theirs = found.value;
    const thing = this.get(name);
    if (thing?.kind !== 'known') return;
    if (theirs !== null && same(theirs.value, mine)) return this.written(name, mine, theirs);
    const value = theirs === null ? thing.value : (this.settings.merge?.(base?.value ?? null, thing.value, theirs.value) ?? null);
    if (value === null) {
      // The question is put by whoever shows it: see `theirs`.
      this.set(name, { ...thing, state: 'not saved', theirs });
      return;
    }
    this.set(name, { ...thing, value, base: theirs, state: 'saving' });
    this.later(name, 0, () => void this.flush(name));
  }

  /** Ends a question about what somebody else saved: mine goes over it, or theirs is taken up. */
  settle(name: string, which: 'mine' | 'theirs'): void {
    const thing = this.get(name);
    if (thing?.kind !== 'known' || thing.theirs === null) return;
    if (which === 'theirs') {
      this.set(name, this.knownAs(name, thing.theirs));
      return;
    }
    this.set(name, { ...thing, base: thing.theirs, theirs: null, state: 'saving' });
    void this.flush(name);
  }

  /** Another window saved it: what is unchanged here follows, a change here meets it when it is saved. */
  async heard(name: string): Promise<void> {
    const thing = this.get(name);
    if (thing?.kind !== 'known' || thing.state !== 'saved') return;
    const found = await this.settings.remote.read(name);
    const now = this.get(name);
    if (found.ok && now === thing && found.value?.revision !== thing.base?.revision) this.set(name, this.knownAs(name, found.value));
  }

  /** Begins a thing under a name that nothing is known of: it is saved a moment later. */
  begin(name: string, value: T): void {
    this.set(name, { kind: 'known', value, base: null, state: 'saving', problem: null, theirs: null });
    this.later(name, this.settings.saveAfterMs, () => void this.flush(name));
  }

  /** Saves a new thing; 409 where something is saved under the name. */
  async add(name: string, value: T): Promise<Answer<Revised<T>>> {
    const made = await this.settings.remote.write(name, value, null);
    if (made.ok) this.set(name, this.knownAs(name, made.value));
    return made;
  }

  /** Gives a thing another name; 409 where that is taken. What was changed goes with it. */
  async rename(from: string, to: string): Promise<Answer<unknown>> {
    const thing = await this.load(from);
    if (thing.kind !== 'known') return { ok: false, problem: thing.kind === 'failed' ? thing.problem : LOST };
    const made = await this.add(to, thing.value);
    if (made.ok) await this.remove(from);
    return made;
  }

  /**
   * Takes a thing away; what was on its way for it comes to nothing.
   *
   * @returns what it was, or null where it could not be taken away
   */
  async remove(name: string): Promise<T | null> {
    const thing = await this.load(name);
    clearTimeout(this.timers.get(name));
    await this.writes.get(name);
    if (thing.kind !== 'known') return null;
    const value = this.valueOf(name) ?? thing.value;
    const gone = await this.settings.remote.drop?.(name);
    if (gone?.ok === false && gone.problem.status !== 404) {
      this.settings.say(`${name} was not deleted: ${problemWords(gone.problem)}`);
      return null;
    }
    clearTimeout(this.timers.get(name));
    this.$all.setKey(name, undefined);
    return value;
  }
}
