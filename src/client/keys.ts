/** A key as it was pressed, apart from the browser. */
export interface KeyPress {
  /** As {@link chordOf} writes it: `Delete`, `Shift+F8`, `Ctrl+Z`. */
  readonly chord: string;
  readonly repeat: boolean;
  /** The caret is in a field: plain keys write there. */
  readonly caret: boolean;
}

/** Something a key can do. */
export interface Command {
  /** The chords it answers to; the first is the one that is shown. */
  readonly keys: readonly string[];
  /** What it does, in words for those who ask with `?`. */
  readonly words: string;
  /** Why it can't be done now, in words; null where it can. */
  readonly cannot?: () => string | null;
  /** Walking and panning go on while the key is held; what sends, opens or takes away never does. */
  readonly repeats?: true;
  /** It does something to an order: it has its key where that may be, and is in no list of things to do. */
  readonly order?: true;
  readonly run: () => void;
}

/** Who has keys: the frame, a pane, what is open over them. */
export interface KeyOwner {
  readonly name: string;
  /** The pane that it is, for those that are one, and whether it is in sight. */
  readonly pane?: string;
  readonly inSight?: () => boolean;
  /** Whether it has them now; a pane has while it is active. */
  readonly has: () => boolean;
  readonly commands: () => readonly Command[];
  /** Says where a command can't be done, and why. */
  readonly refuse?: (words: string) => void;
  /** Nothing below it gets a key while it has them. */
  readonly alone?: true;
}

/** What became of a press: a command ran or said why not, or nobody wanted it. */
export type Routed = 'ran' | 'refused' | 'nobody';

const PLAIN = /^(Shift\+)?.$/u;

/** The chord of a key: modifiers in one order, letters in capitals where a modifier is held. */
export function chordOf({ key, ctrl, alt, meta, shift }: { key: string; ctrl: boolean; alt: boolean; meta: boolean; shift: boolean }): string {
  const letter = key.length === 1;
  const name = key === ' ' ? 'Space' : letter && (ctrl || alt || meta) ? key.toUpperCase() : key;
  // A sign that needs Shift on one keyboard and none on another is one sign.
  const shifted = shift && (!letter || ctrl || alt || meta || /[a-z]/i.test(key));
  return [
    ctrl || meta ? 'Ctrl+' : '',
    alt ? 'Alt+' : '',
    shifted ? 'Shift+' : '',
    name.length === 1 && !(ctrl || alt || meta) ? name.toLowerCase() : name,
  ].join('');
}

/**
 * The one place where keys are told to those who have them: the newest owner that has them first, then those below.
 * While the caret is in a field plain keys and those that move the caret go to nobody.
 */
export class KeyRouter {
  private readonly owners: KeyOwner[] = [];
  private last: { readonly chord: string; readonly at: number } | null = null;

  /** @returns gives the keys back */
  own(owner: KeyOwner): () => void {
    this.owners.push(owner);
    return () => {
      const at = this.owners.indexOf(owner);
      if (at >= 0) this.owners.splice(at, 1);
    };
  }

  /** Who has keys now, the one that gets them first in front. */
  having(): KeyOwner[] {
    const all = this.owners.filter((owner) => owner.has()).reverse();
    const last = all.findIndex(({ alone }) => alone);
    return last < 0 ? all : all.slice(0, last + 1);
  }

  /** The panes that have no keys now, because another one is active: those in sight first. */
  panesBehind(): (KeyOwner & { readonly pane: string })[] {
    const behind = this.owners.flatMap((owner) => (owner.pane !== undefined && !owner.has() ? [{ ...owner, pane: owner.pane }] : []));
    return behind.sort((a, b) => Number(b.inSight?.() ?? false) - Number(a.inSight?.() ?? false));
  }

  /** The key that did something last, if that was within so many milliseconds. */
  ranWithin(ms: number): string | null {
    return this.last !== null && performance.now() - this.last.at <= ms ? this.last.chord : null;
  }

  route({ chord, repeat, caret }: KeyPress): Routed {
    if (caret && (PLAIN.test(chord) || !/^(Ctrl\+|Alt\+|F\d|Shift\+F\d)/.test(chord) || /^Ctrl\+[ACVXZY]$/.test(chord))) return 'nobody';
    const having = this.having();
    const first = having.find((owner) => owner.commands().some(({ keys }) => keys.includes(chord)));
    if (!first) return 'nobody';
    // What one thing has is told to all of its parts: the first that can do it does, else the first says why not.
    let refusal: (() => void) | null = null;
    for (const owner of having.filter(({ name }) => name === first.name)) {
      const command = owner.commands().find(({ keys }) => keys.includes(chord));
      if (!command) continue;
      if (repeat && !command.repeats) return 'refused';
      const why = command.cannot?.() ?? null;
      if (why === null) {
        this.last = { chord, at: performance.now() };
        command.run();
        return 'ran';
      }
      refusal ??= () => owner.refuse?.(why);
    }
    refusal?.();
    return 'refused';
  }
}

/** This window's keys. */
export const keys = new KeyRouter();

const ARROWS: Readonly<Record<string, string>> = { ArrowLeft: '←', ArrowRight: '→', ArrowUp: '↑', ArrowDown: '↓' };

/** A chord as it stands on the keys: modifiers by words, letters in capitals. */
export function keyWords(chord: string): string {
  const [, held = '', key = ''] = /^((?:\w+\+)*)(.+)$/u.exec(chord) ?? [];
  return `${held.replaceAll('+', ' ')}${ARROWS[key] ?? (key.length === 1 ? key.toUpperCase() : key)}`;
}

/** A command by the name that a key can be bound to: its words, as far as a colon. */
export const commandId = ({ words }: Command): string =>
  words
    .split(/[:;]/)[0]
    ?.toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 64) ?? '';

/** What the trader bound; it is no command to bind again. */
export const BOUND = 'Bound keys';
const brought = (): KeyOwner[] => keys.having().filter(({ name }) => name !== BOUND);

/** What can be bound besides phrases: every command that somebody has now. */
export const commandIds = (): string[] => [...new Set(brought().flatMap((owner) => owner.commands().map(commandId)))].filter(Boolean).sort();

/** Runs a command by its name. @returns why it can't now, in words; null where it ran */
export function runCommand(id: string): string | null {
  for (const owner of brought()) {
    const command = owner.commands().find((one) => commandId(one) === id);
    if (!command) continue;
    const why = command.cannot?.() ?? null;
    if (why === null) command.run();
    return why;
  }
  return `nothing here does “${id.replaceAll('-', ' ')}” now`;
}

/** The order layer's own keys: they act while it is held open only. */
export const LAYER = 'Order layer';

/** A command by whoever can do it; `pane` where that is one which is not active. */
export interface Doable {
  readonly command: Command;
  readonly of: string;
  readonly pane: string | null;
}

/** Every command of the frame, the active pane and those behind it but those that touch an order, each once: the nearest has it. */
export function doable(): Doable[] {
  const owners = [
    ...brought()
      .filter(({ name }) => name !== LAYER)
      .map(({ name, commands }) => ({ name, commands, pane: null })),
    ...keys.panesBehind(),
  ];
  const found = new Map<string, Doable>();
  for (const { name, commands, pane } of owners)
    for (const command of commands()) if (!command.order && !found.has(command.words)) found.set(command.words, { command, of: name, pane });
  return [...found.values()];
}
