import { expect } from 'chai';
import { mkdirSync } from 'node:fs';
import type { Browser, BrowserContextOptions, Page } from 'playwright-core';
import { openBrowser, openPage } from './browser.ts';
import { TestHouse } from './worvel.ts';

/** A tree that a group of tests makes, indexed as one build and looked at in a browser. */
export interface ShownTree {
  readonly house: TestHouse;
  readonly url: string;
  readonly browser: Browser;
  readonly page: Page;
  /** What the page logged as errors since the test before; there are none when a test ends. */
  readonly errors: string[];
  /** Opens an asset. @param query what is said of it behind its path */
  go(path: string, query?: string): Promise<void>;
  /** What the address says by a name. */
  query(name: string): string | null;
  /** Waits for something that no element tells. @throws Error that says what never came */
  until(holds: () => boolean | Promise<boolean>, what: string): Promise<void>;
}

/**
 * Within a group of tests: makes a tree, indexes it as build 1 of a title, and opens a browser; all is closed behind them.
 * @param make writes the files of the tree
 */
export function showTree(
  title: string,
  make: (folder: string) => Promise<void> | void,
  options: BrowserContextOptions = {},
): ShownTree {
  const house = new TestHouse();
  let url = '';
  let browser: Browser;
  let page: Page;
  let errors: string[];
  before(async () => {
    await house.open();
    const build = house.path('1');
    mkdirSync(build, { recursive: true });
    await make(build);
    await house.index(build, title, '1');
    url = await house.serve(house.port);
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser, options));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));
  return {
    house,
    get url() {
      return url;
    },
    get browser() {
      return browser;
    },
    get page() {
      return page;
    },
    get errors() {
      return errors;
    },
    async go(path, query = '') {
      await page.goto(
        `${url}/${encodeURIComponent(title)}/main/asset?to=1&path=${encodeURIComponent(path)}${query}`,
      );
    },
    query: (name) => new URL(page.url()).searchParams.get(name),
    async until(holds, what) {
      for (const end = Date.now() + 90_000; Date.now() < end; await page.waitForTimeout(100))
        if (await holds()) return;
      throw new Error(`Never: ${what}`);
    },
  };
}
