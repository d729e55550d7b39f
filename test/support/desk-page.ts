import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { By, Key, type WebDriver, type WebElement } from 'selenium-webdriver';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

interface Violation {
  readonly id: string;
  readonly nodes: readonly { readonly html: string; readonly failureSummary: string }[];
}

/** The workspace as a person uses it: real pointer, real keys. */
export class DeskPage {
  readonly driver: WebDriver;

  constructor(driver: WebDriver) {
    this.driver = driver;
  }

  pane(kind: string): Promise<WebElement> {
    return Promise.resolve(this.driver.findElement(By.css(`[role="region"][aria-label^="${kind}"]`)));
  }

  async press(x: number, y: number): Promise<void> {
    await this.driver
      .actions({ async: true })
      .move({ x: Math.round(x), y: Math.round(y), duration: 0 })
      .press()
      .release()
      .perform();
  }

  async moveTo(x: number, y: number): Promise<void> {
    await this.driver
      .actions({ async: true })
      .move({ x: Math.round(x), y: Math.round(y), duration: 20 })
      .perform();
  }

  async keys(...keys: string[]): Promise<void> {
    await this.driver
      .actions()
      .sendKeys(...keys)
      .perform();
  }

  /** A key pressed while others are held. */
  async chord(key: string, ...held: string[]): Promise<void> {
    const actions = this.driver.actions();
    for (const one of held) actions.keyDown(one);
    actions.sendKeys(key);
    for (const one of held) actions.keyUp(one);
    await actions.perform();
  }

  /** Where a ladder's side of a price is, in the window. */
  async ladderCell(side: 'buy' | 'sell', row: number): Promise<{ x: number; y: number; price: string }> {
    return this.driver.executeScript(
      `const row = document.querySelectorAll('.ladder-row')[arguments[1]];
       const box = row.getBoundingClientRect();
       return { x: box.left + (arguments[0] === 'buy' ? 90 : box.width - 130), y: box.top + 12, price: row.querySelector('.spine').textContent };`,
      side,
      row,
    );
  }

  /** The row of the best bid or ask. */
  async bestRow(side: 'bid' | 'ask'): Promise<number> {
    return this.driver.executeScript(
      `const rows = [...document.querySelectorAll('.ladder-row')];
       const boxed = rows.flatMap((row, i) => (row.querySelector('.spine.best') ? [i] : []));
       return arguments[0] === 'ask' ? boxed[0] : boxed[boxed.length - 1];`,
      side,
    );
  }

  /** The answer line of a pane, once it says something. */
  async answer(kind: string): Promise<string> {
    return this.driver.wait(
      async () =>
        this.driver.executeScript<string | null>(
          `
      const region = document.querySelector('[role="region"][aria-label^="' + arguments[0] + '"]');
      const line = region?.closest('.dv-groupview')?.querySelector('[data-testid="answer"]');
      return line ? line.textContent : null;`,
          kind,
        ),
      5000,
      `no answer in ${kind}`,
    ) as Promise<string>;
  }

  async clearAnswers(): Promise<void> {
    await this.driver.executeScript(`document.querySelectorAll('[data-testid="answer"]').forEach((line) => line.click());`);
  }

  async click(css: string): Promise<void> {
    await this.driver.findElement(By.css(css)).click();
  }

  async clickText(text: string): Promise<void> {
    await this.driver.findElement(By.xpath(`//button[contains(normalize-space(.), "${text}")]`)).click();
  }

  /** Gives the first chart an interval by its word in the pane. */
  async menuInterval(interval: string): Promise<void> {
    await this.driver.findElement(By.xpath(`//*[@role="region"][starts-with(@aria-label, "Chart")]//button[normalize-space(.)="${interval}"]`)).click();
  }

  /** Opens a page from the main menu. */
  async openPage(title: string): Promise<void> {
    await this.click('button[aria-label="Menu"]');
    const item = By.xpath(`//*[@role="menuitem"][normalize-space(.)="${title}"]`);
    await (await this.driver.wait(async () => (await this.driver.findElements(item))[0] ?? null, 4000))?.click();
    await this.until(`return document.querySelector('[data-page^="' + arguments[0] + '"] section')`, title.split(' ').at(-1)?.toLowerCase());
  }

  /** What axe finds wrong with what is shown, a line each. */
  async violations(): Promise<string[]> {
    await this.driver.executeScript(AXE);
    const found = await this.driver.executeAsyncScript<Violation[]>(
      `const done = arguments[arguments.length - 1]; axe.run(document, { resultTypes: ['violations'] }).then((result) => done(result.violations));`,
    );
    return found.map(({ id, nodes }) => `${id}: ${nodes.map((node) => `${node.html.slice(0, 160)} (${node.failureSummary.slice(0, 200)})`).join(' | ')}`);
  }

  /** The same in both themes, each line with the theme it was found in; the night's stays. */
  async violationsInBothThemes(): Promise<string[]> {
    const all: string[] = [];
    for (const theme of ['day', 'night']) {
      await this.driver.executeScript(`document.documentElement.dataset.theme = arguments[0]`, theme);
      all.push(...(await this.violations()).map((line) => `${theme}: ${line}`));
    }
    return all;
  }

  /** Picks one of a choice by its words: a short menu, or a list that is searched. */
  async choose(label: string, words: string): Promise<void> {
    await this.click(`button[aria-label^="${label}"]`);
    const found = By.xpath(`//*[@role="menuitemradio" or @cmdk-item][starts-with(normalize-space(.), "${words}")]`);
    await (await this.driver.wait(async () => (await this.driver.findElements(found))[0] ?? null, 4000, `${words} of ${label}`))?.click();
  }

  /** Shows a workspace whose word is in the top line. */
  async showWorkspace(name: string): Promise<void> {
    const word = By.xpath(`//nav//*[normalize-space(text())="${name}"] | //button[normalize-space(.)="${name}"]`);
    await (await this.driver.wait(async () => (await this.driver.findElements(word))[0] ?? null, 4000, name))?.click();
  }

  /** Waits until a script gives something true. */
  async until<T>(script: string, ...args: unknown[]): Promise<T> {
    return this.driver.wait(async () => (await this.driver.executeScript<T>(script, ...args)) || null, 8000, script) as Promise<T>;
  }

  /** Nothing moved under the pointer for long enough that a press counts. */
  async settle(): Promise<void> {
    await this.driver.sleep(450);
  }

  async menu(...words: string[]): Promise<void> {
    await this.click('button[aria-label="Menu"]');
    for (const [i, word] of words.entries()) {
      const item = await this.driver.wait(async () => {
        const found = await this.driver.findElements(
          By.xpath(`//*[@role="menuitem" or @role="menuitemradio"][contains(., "${word}") or contains(@aria-label, "${word}")]`),
        );
        return found[found.length - 1] ?? null;
      }, 4000);
      await item?.click();
      if (i < words.length - 1) await this.driver.sleep(200);
    }
    await this.driver.sleep(200);
    await this.keys(Key.ESCAPE, Key.ESCAPE);
    await this.driver.sleep(200);
  }
}
