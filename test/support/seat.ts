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
  /** Ends the program and starts it again where it was; gives the API anew. */
  readonly restart: () => Promise<Client>;
  readonly leave: () => Promise<void>;
}

/** @param time market time of day to begin at, such as `09:00:01.000` */
export async function takeSeat(tape: readonly string[], time: string): Promise<Seat> {
  const settings = { KAVIX_MARKET: `tape:${writeTape(tape)}`, KAVIX_CLOCK: 'manual' };
  let server = await startServer(settings);
  const { folder, port } = server;
  const api = await Client.signIn(server.address);
  await api.to(time);
  const { driver, close } = await openBrowser();
  const leave = async (): Promise<void> => {
    await close();
    await server.stop();
    dropFolder(folder);
  };
  const restart = async (): Promise<Client> => {
    await server.stop();
    server = await startServer({ ...settings, KAVIX_DATA: folder, PORT: String(port) });
    return Client.signIn(server.address);
  };
  const page = new DeskPage(driver);
  await enterDemo(driver, server.address);
  await page.until(`return document.querySelectorAll('.spine.best').length === 2`);
  return { server, api, driver, page, restart, leave };
}
