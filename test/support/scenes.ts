import { World, type WorldSettings } from './world.ts';

const opened: World[] = [];

/** The usual market of GANET.HALM: 500 bid at 41.18, 300 offered at 41.20 and 400 at 41.21. */
export const MARKET = [
  '09:00:00.000 GANET.HALM state open',
  '09:00:00.000 GANET.HALM level bid 41.18 500',
  '09:00:00.000 GANET.HALM level ask 41.20 300',
  '09:00:00.000 GANET.HALM level ask 41.21 400',
];

/** A world on a tape that ends by itself when its test does. */
export async function worldOf(rows: readonly string[], settings: WorldSettings = {}): Promise<World> {
  const world = await World.open(rows, settings);
  opened.push(world);
  return world;
}

/** A world with the usual market and more rows, at half a second past nine or another time. */
export const marketWorld = async (rows: readonly string[] = [], clock = '09:00:00.500', settings: WorldSettings = {}): Promise<World> =>
  (await worldOf([...MARKET, ...rows], settings)).to(clock);

/** Ends every world that a test began. To be called after each test. */
export async function endWorlds(): Promise<void> {
  for (const world of opened.splice(0)) await world.close();
}
