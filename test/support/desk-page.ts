import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Key, type WebDriver } from 'selenium-webdriver';
import { Found } from './found.ts';

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

  /** What is found by CSS, or by XPath where it begins with `/` or `(`, whenever it is used. */
  find(where: string): Found {
    return new Found(this.driver, where);
  }

  /** What has exactly this label. */
  labelled(label: string): Found {
    return this.find(`[aria-label="${label}"]`);
  }

  /** The button of exactly these words. */
  button(words: string): Found {
    return this.find(`//button[normalize-space(.)="${words}"]`);
  }

  /** The line of an open menu that begins with these words. */
  item(words: string): Found {
    return this.find(`//*[starts-with(@role, "menuitem") or @cmdk-item][starts-with(normalize-space(.), "${words}")]`);
  }

  pane(kind: string): Found {
    return this.find(`[role="region"][aria-label^="${kind}"]`);
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
    await this.find(css).click();
  }

  async clickText(text: string): Promise<void> {
    await this.find(`//button[contains(normalize-space(.), "${text}")]`).click();
  }

  /** Gives the first chart an interval by its word in the pane. */
  async menuInterval(interval: string): Promise<void> {
    await this.find(`//*[@role="region"][starts-with(@aria-label, "Chart")]//button[normalize-space(.)="${interval}"]`).click();
  }

  /** Opens a page from the main menu. */
  async openPage(title: string): Promise<void> {
    await this.click('button[aria-label="Menu"]');
    await this.find(`//*[@role="menuitem"][normalize-space(.)="${title}"]`).click();
    await this.until(`return document.querySelector('[data-page^="' + arguments[0] + '"] section')`, title.split(' ').at(-1)?.toLowerCase());
  }

  /** What axe finds wrong with what is shown, a line each. */
  async violations(): Promise<string[]> {
    // What moves is dim for a moment.
    await this.settle();
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
    await this.item(words).click();
  }

  /** Shows a workspace whose word is in the top line. */
  async showWorkspace(name: string): Promise<void> {
    await this.find(`(//nav//*[normalize-space(text())="${name}"] | //button[normalize-space(.)="${name}"])`).click();
  }

  /** Opens the window anew with one workspace, brought along or kept, and no other tab. */
  async openAlone(name: string): Promise<void> {
    await this.driver.executeScript(`localStorage.setItem('kavix.tabs', JSON.stringify({ open: [arguments[0]], current: arguments[0] }))`, name);
    await this.driver.navigate().refresh();
    await this.until(`return document.querySelector('[aria-current="page"]')?.textContent === arguments[0] && document.querySelector('[data-pane]')`, name);
    await this.loaded();
  }

  /** Waits until a script gives something true. */
  async until<T>(script: string, ...args: unknown[]): Promise<T> {
    return this.driver.wait(async () => (await this.driver.executeScript<T>(script, ...args)) || null, 8000, script) as Promise<T>;
  }

  /** Waits until what was asked of the window is drawn. */
  async drawn(): Promise<void> {
    await this.driver.executeAsyncScript(`const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(done));`);
  }

  /** Waits until a press counts: it is drawn what is aimed at, and nothing moves under the pointer. */
  async settle(): Promise<void> {
    await this.drawn();
    await this.until(`return !document.querySelector('[data-moving]')`);
    await this.drawn();
  }

  /** Waits until every pane has what it shows. */
  async loaded(): Promise<void> {
    await this.until(`return !document.querySelector('.skeleton')`);
    await this.settle();
  }

  /** Lets time go by, where what is looked at is that nothing happens in it. */
  async passes(ms: number): Promise<void> {
    await this.driver.sleep(ms);
  }

  /** Drags one thing onto another. */
  async drag(from: string, onto: string): Promise<void> {
    const [what, where] = [await this.find(from).element(), await this.find(onto).element()];
    await this.driver.actions({ async: true }).dragAndDrop(what, where).perform();
  }

  /** Offers a file of this name and text to the field that takes one. */
  async offerFile(label: string, name: string, text: string): Promise<void> {
    await this.find(`input[type="file"][aria-label="${label}"]`).script(
      `const files = new DataTransfer();
       files.items.add(new File([arguments[2]], arguments[1]));
       arguments[0].files = files.files;
       arguments[0].dispatchEvent(new Event('change', { bubbles: true }));`,
      name,
      text,
    );
  }

  /** Picks a line of the main menu, in the menus that open from it. */
  async menu(...words: string[]): Promise<void> {
    await this.click('button[aria-label="Menu"]');
    for (const word of words) {
      const lines = `//*[@role="menuitem" or @role="menuitemradio"][contains(., "${word}") or contains(@aria-label, "${word}")]`;
      await this.find(`(${lines})[last()]`).click();
    }
    await this.gone('[role="menu"]', Key.ESCAPE);
  }

  /** Presses a key until what it closes is gone. */
  async gone(css: string, key: string): Promise<void> {
    await this.driver.wait(
      async () => {
        const open = await this.driver.executeScript<boolean>(`return document.querySelector(arguments[0]) !== null`, css);
        if (open) await this.keys(key);
        return !open;
      },
      8000,
      `${css} stays open`,
    );
  }
}
