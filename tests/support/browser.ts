import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import { chromium, type Browser, type BrowserContextOptions, type Locator, type Page } from 'playwright-core';

const axeSource = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/** Debian's Chromium, without a window. */
export function openBrowser(): Promise<Browser> {
  return chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--no-first-run',
      '--enable-unsafe-swiftshader',
    ],
  });
}

/** A page that collects what it logs as errors: a test that uses it looks at them when it ends. */
export async function openPage(
  browser: Browser,
  options: BrowserContextOptions = {},
): Promise<{ page: Page; errors: string[] }> {
  const page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    reducedMotion: 'reduce',
    ...options,
  });
  const errors: string[] = [];
  page.on('pageerror', (error) => errors.push(error.message));
  page.on('console', (message) => {
    if (message.type() === 'error') errors.push(message.text());
  });
  // Pictures are drawn without a graphics card, beside other tests: what takes a second alone may take a minute.
  page.setDefaultTimeout(90_000);
  return { page, errors };
}

interface AxeResult {
  violations: { id: string; impact: string | null; nodes: { target: unknown; failureSummary?: string }[] }[];
}

/** axe-core finds nothing serious on the page as it stands. */
export async function expectAccessible(page: Page, what: string): Promise<void> {
  await page.evaluate(axeSource);
  const { violations } = await page.evaluate<AxeResult>('axe.run(document, { resultTypes: ["violations"] })');
  const serious = violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(
      ({ id, nodes }) =>
        `${id}: ${JSON.stringify(nodes.slice(0, 3).map(({ target, failureSummary }) => [target, failureSummary]))}`,
    );
  expect(serious, what).to.deep.equal([]);
}

/**
 * Types into a field as a person does: into what has the focus, a letter at a time. What takes the focus away meanwhile gets
 * the rest of the letters, as it would from a person.
 */
export async function typeInto(field: Locator, text: string, delayMs = 15): Promise<void> {
  const { keyboard } = field.page();
  await field.click();
  await keyboard.press('ControlOrMeta+a');
  await keyboard.press('Delete');
  await keyboard.type(text, { delay: delayMs });
}
