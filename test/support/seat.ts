import type { WebDriver } from 'selenium-webdriver';
import { enterDemo, openBrowser } from './browser.ts';
import { DeskPage } from './desk-page.ts';
import { Client, dropFolder, startServer, writeTape, type Server } from './server.ts';

/** A trader at a desk of their own: a server on a tape whose time stands until it is moved, a browser signed in, and the API beside it. */
export interface Seat {
  readonly server: Server;
  readonly api: Client;
  readonly driver: WebDriver;
  readonly page: DeskPage;
  readonly leave: () => Promise<void>;
}

/** @param time market time of day to begin at, such as `09:00:01.000` */
export async function takeSeat(tape: readonly string[], time: string): Promise<Seat> {
  const server = await startServer({ KAVIX_MARKET: `tape:${writeTape(tape)}`, KAVIX_CLOCK: 'manual' });
  const api = await Client.signIn(server.address);
  await api.to(time);
  const { driver, close } = await openBrowser();
  const leave = async (): Promise<void> => {
    await close();
    await server.stop();
    dropFolder(server.folder);
  };
  const page = new DeskPage(driver);
  await enterDemo(driver, server.address);
  await page.until(`return document.querySelectorAll('.spine.best').length === 2`);
  return { server, api, driver, page, leave };
}
