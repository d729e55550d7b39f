import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, Key, until, type WebDriver } from 'selenium-webdriver';
import { Options, ServiceBuilder, type Driver } from 'selenium-webdriver/chrome.js';

const FLAGS = [
  '--headless=new',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--force-color-profile=srgb',
];

/** A headless Chromium of its own, at 1280×800. */
export async function openBrowser(size = { width: 1280, height: 800 }): Promise<{ driver: WebDriver; close: () => Promise<void> }> {
  const profile = mkdtempSync(join(tmpdir(), 'kavix-browser-'));
  const options = new Options();
  options.addArguments(...FLAGS, `--user-data-dir=${profile}`, `--window-size=${size.width},${size.height}`);
  options.setBinaryPath('/usr/bin/chromium');
  const driver = await new Builder().forBrowser('chrome').setChromeOptions(options).setChromeService(new ServiceBuilder('/usr/bin/chromedriver')).build();
  await (driver as Driver).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', { ...size, deviceScaleFactor: 1, mobile: false });
  return {
    driver,
    close: async () => {
      await driver.quit().catch(() => undefined);
      rmSync(profile, { recursive: true, force: true });
    },
  };
}

/** Signs in. The first time on a day the day sheet opens, and is left for the workspace unless it is to stay. */
export async function enterDemo(driver: WebDriver, address: string, daySheet: 'leave' | 'stay' = 'leave'): Promise<void> {
  await driver.get(`${address}/sign-in`);
  const button = await driver.wait(until.elementLocated(By.css('[data-testid="demo-sign-in"]')), 15_000);
  await button.click();
  await driver.wait(until.elementLocated(By.css('[data-testid="ladder-body"] .ladder-row')), 20_000);
  if (daySheet === 'leave') await leaveDaySheet(driver);
  else await driver.wait(until.elementLocated(By.css(SHEET)), 10_000);
}

const SHEET = '[data-page="sheet"]';

/** Leaves the day sheet, which opens at the first sign-in of a day, for the workspace. */
export async function leaveDaySheet(driver: WebDriver): Promise<void> {
  await driver.wait(until.elementLocated(By.css(SHEET)), 10_000);
  await driver.wait(async () => {
    await driver.actions().sendKeys(Key.ESCAPE).perform();
    return (await driver.findElements(By.css(SHEET))).length === 0;
  }, 10_000);
}

export async function picture(driver: WebDriver, file: string): Promise<void> {
  writeFileSync(file, Buffer.from(await driver.takeScreenshot(), 'base64'));
}
