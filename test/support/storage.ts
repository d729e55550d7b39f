/** Gives the modules of the browser a storage of their own, in memory. */
export function storeInMemory(): void {
  const stored = new Map<string, string>();
  globalThis.localStorage = {
    getItem: (key: string) => stored.get(key) ?? null,
    setItem: (key: string, value: string) => stored.set(key, value),
  } as unknown as Storage;
}
