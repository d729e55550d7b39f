import { createHash, randomBytes, scrypt as scryptCallback, timingSafeEqual } from 'node:crypto';
import { promisify } from 'node:util';
import { authenticator } from 'otplib';

export interface User {
  readonly name: string;
  readonly password: string;
  readonly secondStep: string | null;
  readonly pendingSecondStep: string | null;
}

export interface Session {
  readonly id: string;
  readonly user: string;
  readonly csrf: string;
  readonly expiresAt: number;
  readonly createdAt: number;
  /** What the browser says it is. */
  readonly agent: string;
}

export interface Token {
  readonly id: string;
  readonly user: string;
  readonly name: string;
  readonly hash: string;
  readonly createdAt: number;
  readonly expiresAt: number | null;
}

/** Where users, sessions and tokens are kept. */
export interface AccessKeeper {
  user(name: string): Promise<User | null>;
  saveUser(user: User): Promise<void>;
  session(id: string): Promise<Session | null>;
  sessionsOf(user: string): Promise<Session[]>;
  saveSession(session: Session): Promise<void>;
  dropSession(id: string): Promise<void>;
  tokenByHash(hash: string): Promise<Token | null>;
  tokensOf(user: string): Promise<Token[]>;
  saveToken(token: Token): Promise<void>;
  dropToken(id: string): Promise<void>;
}

const scrypt = promisify<string, Buffer, number, { N: number; r: number; p: number; maxmem: number }, Buffer>(scryptCallback);
/** 32 MiB a hash (RFC 7914): slow enough for guessers, quick enough for a sign-in. */
const COST = { N: 2 ** 15, r: 8, p: 1, maxmem: 64 * 2 ** 20 };
const KEY_BYTES = 32;
const SESSION_MS = 16 * 3600_000;
const MAX_FAILURES = 5;
const AGENT_LENGTH = 200;
const FAILURES_WITHIN_MS = 5 * 60_000;

const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
const secret = (): string => randomBytes(32).toString('base64url');

export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  const key = await scrypt(password, salt, KEY_BYTES, COST);
  return `scrypt$${salt.toString('base64')}$${key.toString('base64')}`;
}

async function passwordFits(password: string, stored: string): Promise<boolean> {
  const [, salt = '', key = ''] = stored.split('$');
  const expected = Buffer.from(key, 'base64');
  const actual = await scrypt(password, Buffer.from(salt, 'base64'), KEY_BYTES, COST);
  return expected.length === actual.length && timingSafeEqual(expected, actual);
}

/** A hash that fits no password, checked for unknown users so that they take as long as known ones. */
const NOBODY = `scrypt$${Buffer.alloc(16).toString('base64')}$${Buffer.alloc(KEY_BYTES).toString('base64')}`;

/** One step of 30 s either way is allowed for clocks that differ (RFC 6238, 5.2). */
const codeFits = (code: string, now: number, key: string): boolean => /^\d{6}$/.test(code) && authenticator.clone({ epoch: now, window: 1 }).check(code, key);

export type SignIn =
  | { readonly kind: 'signed-in'; readonly cookie: string; readonly session: Session; readonly user: User }
  | { readonly kind: 'refused'; readonly needsCode: boolean }
  | { readonly kind: 'limited'; readonly retryAfterSeconds: number };

/** Who may come in. All times are the machine's. */
export class Access {
  private readonly keeper: AccessKeeper;
  private readonly clock: () => number;
  private readonly failures = new Map<string, number[]>();
  /** Sessions asked for since the start: every call asks, and the store has better things to do. */
  private readonly sessions = new Map<string, Session>();

  constructor(keeper: AccessKeeper, clock: () => number = Date.now) {
    this.keeper = keeper;
    this.clock = clock;
  }

  async addUser(name: string, password: string): Promise<void> {
    if (await this.keeper.user(name)) return;
    await this.keeper.saveUser({ name, password: await hashPassword(password), secondStep: null, pendingSecondStep: null });
  }

  /** Signs a user in from an address. Five failures in five minutes, per user and address, and it is over for a while. */
  async signIn(name: string, password: string, code: string | undefined, address: string, agent = ''): Promise<SignIn> {
    const key = `${name} ${address}`;
    const now = this.clock();
    const recent = (this.failures.get(key) ?? []).filter((at) => at > now - FAILURES_WITHIN_MS);
    if (recent.length >= MAX_FAILURES)
      return { kind: 'limited', retryAfterSeconds: Math.max(1, Math.ceil(((recent[0] ?? now) + FAILURES_WITHIN_MS - now) / 1000)) };
    // Counted before the slow check, so that many guesses at once are counted too.
    this.failures.set(key, [...recent, now]);
    this.tidy(now);
    const user = await this.keeper.user(name);
    const fits = await passwordFits(password, user?.password ?? NOBODY);
    if (!user || !fits) return { kind: 'refused', needsCode: false };
    if (user.secondStep !== null) {
      if (code === undefined) {
        this.failures.set(key, recent);
        return { kind: 'refused', needsCode: true };
      }
      if (!codeFits(code, this.clock(), user.secondStep)) return { kind: 'refused', needsCode: false };
    }
    this.failures.delete(key);
    const cookie = secret();
    const session = { id: sha256(cookie), user: user.name, csrf: secret(), expiresAt: now + SESSION_MS, createdAt: now, agent: agent.slice(0, AGENT_LENGTH) };
    await this.keeper.saveSession(session);
    return { kind: 'signed-in', cookie, session, user };
  }

  async signOut(session: Session): Promise<void> {
    this.sessions.delete(session.id);
    await this.keeper.dropSession(session.id);
  }

  /** A user's sessions that are in force, the newest first. */
  async sessionsOf(user: string): Promise<Session[]> {
    const now = this.clock();
    return (await this.keeper.sessionsOf(user)).filter(({ expiresAt }) => expiresAt > now);
  }

  async sessionOf(cookie: string): Promise<Session | null> {
    const id = sha256(cookie);
    const session = this.sessions.get(id) ?? (await this.keeper.session(id));
    if (!session) return null;
    if (session.expiresAt <= this.clock()) {
      await this.signOut(session);
      return null;
    }
    this.sessions.set(id, session);
    return session;
  }

  /** The personal token of a text, or null where there is none such or it has run out. */
  async tokenOf(text: string): Promise<Token | null> {
    const found = await this.keeper.tokenByHash(sha256(text));
    return found && (found.expiresAt === null || found.expiresAt > this.clock()) ? found : null;
  }

  user(name: string): Promise<User | null> {
    return this.keeper.user(name);
  }

  tokensOf(user: string): Promise<Token[]> {
    return this.keeper.tokensOf(user);
  }

  /** Makes a token; its text is told this once and kept only as a hash. */
  async addToken(user: string, name: string, expiresAt: number | null): Promise<{ token: Token; text: string }> {
    const text = `kvx_${secret()}`;
    const token = { id: randomBytes(8).toString('hex'), user, name, hash: sha256(text), createdAt: this.clock(), expiresAt };
    await this.keeper.saveToken(token);
    return { token, text };
  }

  /** False where the user has no such token. */
  async dropToken(user: string, id: string): Promise<boolean> {
    if (!(await this.keeper.tokensOf(user)).some((token) => token.id === id)) return false;
    await this.keeper.dropToken(id);
    return true;
  }

  /** Begins a second step (RFC 6238, SHA-1, 6 digits, 30 s); in force once a code of it was given. */
  async beginSecondStep(name: string): Promise<string> {
    const user = await this.known(name);
    const pendingSecondStep = authenticator.generateSecret(20);
    await this.keeper.saveUser({ ...user, pendingSecondStep });
    return pendingSecondStep;
  }

  async confirmSecondStep(name: string, code: string): Promise<boolean> {
    const user = await this.known(name);
    if (user.pendingSecondStep === null || !codeFits(code, this.clock(), user.pendingSecondStep)) return false;
    await this.keeper.saveUser({ ...user, secondStep: user.pendingSecondStep, pendingSecondStep: null });
    return true;
  }

  async endSecondStep(name: string, code: string): Promise<boolean> {
    const user = await this.known(name);
    if (user.secondStep === null || !codeFits(code, this.clock(), user.secondStep)) return false;
    await this.keeper.saveUser({ ...user, secondStep: null, pendingSecondStep: null });
    return true;
  }

  private async known(name: string): Promise<User> {
    const user = await this.keeper.user(name);
    if (!user) throw new Error(`unknown user ${name}`);
    return user;
  }

  private tidy(now: number): void {
    if (this.failures.size < 10_000) return;
    for (const [key, times] of this.failures) if (times.every((at) => at <= now - FAILURES_WITHIN_MS)) this.failures.delete(key);
  }
}
