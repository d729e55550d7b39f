import { By, error, type WebDriver, type WebElement } from 'selenium-webdriver';

const WITHIN_MS = 8000;
const AGAIN_MS = 40;
/** What a view that draws itself anew does to a hand that is too quick: nothing was done, so it is done again. */
const NOT_DONE = [error.StaleElementReferenceError, error.ElementClickInterceptedError, error.ElementNotInteractableError];

export interface Box {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** A thing in the page by where it is, not by what stood there once: it is waited for, and looked up anew at each use. */
export class Found {
  private readonly driver: WebDriver;
  private readonly by: By;
  private readonly words: string;

  /** @param where CSS, or XPath where it begins with `/` or `(` */
  constructor(driver: WebDriver, where: string) {
    this.driver = driver;
    this.by = /^[/(]/.test(where) ? By.xpath(where) : By.css(where);
    this.words = where;
  }

  click(): Promise<void> {
    return this.use((element) => element.click());
  }

  /** A press by script, for what lies under something else at this height of the window. */
  poke(): Promise<void> {
    return this.script('arguments[0].click()');
  }

  type(...keys: string[]): Promise<void> {
    return this.use((element) => element.sendKeys(...keys));
  }

  clear(): Promise<void> {
    return this.use((element) => element.clear());
  }

  text(): Promise<string> {
    return this.use((element) => element.getText());
  }

  attribute(name: string): Promise<string | null> {
    return this.use((element) => element.getAttribute(name));
  }

  value(): Promise<string | null> {
    return this.attribute('value');
  }

  isEnabled(): Promise<boolean> {
    return this.use((element) => element.isEnabled());
  }

  box(): Promise<Box> {
    return this.use((element) => element.getRect());
  }

  /** Runs a script with it as its first argument. */
  script<T>(script: string, ...args: unknown[]): Promise<T> {
    return this.use((element) => this.driver.executeScript<T>(script, element, ...args));
  }

  /** Waits until it is there. */
  async appears(): Promise<this> {
    await this.use(() => Promise.resolve());
    return this;
  }

  /** As it stands now, for a gesture of several steps. */
  element(): Promise<WebElement> {
    return this.use((element) => Promise.resolve(element));
  }

  private async use<T>(act: (element: WebElement) => Promise<T>): Promise<T> {
    const end = Date.now() + WITHIN_MS;
    let why = 'is not there';
    for (;;) {
      const [element] = await this.driver.findElements(this.by);
      try {
        if (element) return await act(element);
      } catch (thrown) {
        if (!NOT_DONE.some((kind) => thrown instanceof kind)) throw thrown;
        why = thrown instanceof Error ? thrown.message : String(thrown);
      }
      if (Date.now() > end) throw new Error(`${this.words}: ${why}`);
      await this.driver.sleep(AGAIN_MS);
    }
  }
}
