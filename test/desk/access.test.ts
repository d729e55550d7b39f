import { expect } from 'chai';
import { Access, hashPassword, type AccessKeeper, type Session, type Token, type User } from '../../src/access/access.ts';

class Keeper implements AccessKeeper {
  readonly users = new Map<string, User>();
  readonly sessions = new Map<string, Session>();
  readonly tokens: Token[] = [];
  user = (name: string): Promise<User | null> => Promise.resolve(this.users.get(name) ?? null);
  saveUser = (user: User): Promise<void> => Promise.resolve(void this.users.set(user.name, user));
  session = (id: string): Promise<Session | null> => Promise.resolve(this.sessions.get(id) ?? null);
  sessionsOf = (user: string): Promise<Session[]> => Promise.resolve([...this.sessions.values()].filter((session) => session.user === user).reverse());
  saveSession = (session: Session): Promise<void> => Promise.resolve(void this.sessions.set(session.id, session));
  dropSession = (id: string): Promise<void> => Promise.resolve(void this.sessions.delete(id));
  tokenByHash = (hash: string): Promise<Token | null> => Promise.resolve(this.tokens.find((token) => token.hash === hash) ?? null);
  tokensOf = (user: string): Promise<Token[]> => Promise.resolve(this.tokens.filter((token) => token.user === user));
  saveToken = (token: Token): Promise<void> => Promise.resolve(void this.tokens.push(token));
  dropToken = (id: string): Promise<void> =>
    Promise.resolve(
      void this.tokens.splice(
        this.tokens.findIndex((token) => token.id === id),
        1,
      ),
    );
}

describe('access', () => {
  let now = 1_000_000_000_000;
  let keeper: Keeper;
  let access: Access;
  beforeEach(async () => {
    keeper = new Keeper();
    access = new Access(keeper, () => now);
    await access.addUser('demo', 'right');
  });

  it('keeps no password, cookie or token as it is', async () => {
    const signed = await access.signIn('demo', 'right', undefined, '1');
    const { text } = await access.addToken('demo', 'script', null);
    const kept = JSON.stringify([...keeper.users.values(), ...keeper.sessions.values(), ...keeper.tokens]);
    expect(kept).to.not.contain('right').and.not.contain(text);
    if (signed.kind === 'signed-in') expect(kept).to.not.contain(signed.cookie);
    expect(await hashPassword('right')).to.not.equal(await hashPassword('right'));
  });

  it('counts failures per user and address, forgets them after five minutes and after a success', async () => {
    const tries = async (password: string, address: string): Promise<string> => (await access.signIn('demo', password, undefined, address)).kind;
    for (let i = 0; i < 5; i++) expect(await tries('wrong', '1')).to.equal('refused');
    expect(await tries('right', '1')).to.equal('limited');
    expect(await tries('right', '2')).to.equal('signed-in');
    now += 5 * 60_000;
    expect(await tries('right', '1')).to.equal('signed-in');
    for (let i = 0; i < 4; i++) await tries('wrong', '1');
    expect(await tries('right', '1')).to.equal('signed-in');
    for (let i = 0; i < 4; i++) expect(await tries('wrong', '1')).to.equal('refused');
  });

  it('counts guesses that come all at once', async () => {
    const kinds = await Promise.all(Array.from({ length: 8 }, () => access.signIn('demo', 'wrong', undefined, '3').then((one) => one.kind)));
    expect(kinds.filter((kind) => kind === 'limited')).to.have.length(3);
  });

  it('ends sessions and tokens in time', async () => {
    const signed = await access.signIn('demo', 'right', undefined, '1');
    const { text } = await access.addToken('demo', 'short', now + 1000);
    expect((await access.tokenOf(text))?.user).to.equal('demo');
    now += 17 * 3_600_000;
    expect(signed.kind === 'signed-in' && (await access.sessionOf(signed.cookie))).to.equal(null);
    expect(await access.tokenOf(text)).to.equal(null);
  });

  it('takes codes of RFC 6238, one step of 30 s either way', async () => {
    // The RFC's own secret, with six digits: at 59 s the code is 287082.
    keeper.users.set('demo', { ...(keeper.users.get('demo') as User), secondStep: 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ' });
    now = 59_000;
    expect((await access.signIn('demo', 'right', '287082', '1')).kind).to.equal('signed-in');
    now = 89_000;
    expect((await access.signIn('demo', 'right', '287082', '1')).kind).to.equal('signed-in');
    now = 125_000;
    expect((await access.signIn('demo', 'right', '287082', '1')).kind).to.equal('refused');
    expect(await access.signIn('demo', 'right', undefined, '1')).to.deep.equal({ kind: 'refused', needsCode: true });
  });
});
