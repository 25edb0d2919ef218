import { AxeBuilder } from '@axe-core/playwright';
import { type Cookie, expect, type Locator, type Page } from '@playwright/test';
import { base, panel } from './my-house.js';

/** Puts a card of the demonstration into the reader, or pulls it out. */
export async function move(volume: string, where: 'in' | 'out'): Promise<void> {
  const response = await fetch(`${panel()}/cards/${volume}/${where}`, { method: 'POST' });
  expect(response.status).toBe(200);
}

/** Who is signed in at this worker's house, by name: signing in is tried by a journey of its own. */
const sessions = new Map<string, Cookie[]>();

/**
 * Comes to the desk as somebody who has signed in before. What ends a session of `wren` ends it for the journeys after it.
 * @param anew with a session of its own, as in another browser
 */
export async function signIn(page: Page, name = 'wren', password = 'hazel-and-reed', { anew = false } = {}): Promise<void> {
  const kept = anew ? undefined : sessions.get(name);
  if (kept) {
    await page.context().addCookies(kept);
  } else {
    const answer = await page.request.post(`${base()}/api/session`, { data: { name, password } });
    expect(answer.ok()).toBe(true);
    // Those of others are ended in the journeys.
    if (name === 'wren' && !anew) sessions.set(name, await page.context().cookies());
  }
  const underWay = watched(page);
  await page.goto(`${base()}/desk`);
  await expect(page.getByRole('heading', { name: 'Desk', exact: true }), { message: 'the desk' })
    .toBeVisible()
    .catch((problem: unknown) => {
      throw new Error(`The desk did not come. ${underWay()}`, { cause: problem });
    });
}

/** What a page waits for and what it complained of, told when it stays empty. */
function watched(page: Page): () => string {
  const waits = new Set<string>();
  const said: string[] = [];
  page.on('request', (request) => waits.add(`${request.method()} ${request.url()}`));
  page.on('requestfinished', (request) => waits.delete(`${request.method()} ${request.url()}`));
  page.on('requestfailed', (request) => {
    waits.delete(`${request.method()} ${request.url()}`);
    said.push(`${request.url()}: ${request.failure()?.errorText ?? 'failed'}`);
  });
  page.on('response', (response) => {
    if (response.status() >= 400) said.push(`${response.url()}: ${response.status()}`);
  });
  page.on('console', (message) => said.push(message.text()));
  page.on('pageerror', (problem) => said.push(problem.stack ?? problem.message));
  return () => `It waits for: ${[...waits].join(', ') || 'nothing'}. It said: ${said.join('; ') || 'nothing'}.`;
}

/** Comes to the desk in a browser of its own, where somebody is at it in another one. */
export const signInElsewhere = (page: Page): Promise<void> => signIn(page, 'wren', 'hazel-and-reed', { anew: true });

/** To be said by whoever signed out: the session that others would go on with has ended. */
export const signedOut = (): void => sessions.clear();

/** The tile of a card in its tray. */
export const tile = (page: Page, tray: 'In' | 'On the desk' | 'To give back', text: string | RegExp): Locator =>
  page.getByRole('region', { name: tray, exact: true }).getByRole('link').filter({ hasText: text });

/** Chooses from a type-ahead of the slip; whose click fell beside a word that moved, clicks again. */
export async function choose(page: Page, word: string, label: string, typed: string, option: string): Promise<void> {
  const field = page.getByLabel(label);
  await expect(async () => {
    if (!(await field.isVisible())) await page.getByRole('button', { name: word, exact: true }).click({ timeout: 5_000 });
    await expect(field).toBeVisible({ timeout: 3_000 });
  }).toPass();
  await field.fill(typed);
  await page.getByRole('option', { name: option }).first().click();
  // What was chosen makes the sentence longer: the next word stands elsewhere then.
  await expect(page.getByRole('heading', { level: 1 })).toContainText(option);
}

/** No serious violation of WCAG 2.2 AA on what is shown. */
export async function expectAccessible(page: Page): Promise<void> {
  // Told of violations alone and without selectors, in the page itself: it has no frames. That takes a third of the time.
  const { violations } = await new AxeBuilder({ page })
    .options({ runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], resultTypes: ['violations'], selectors: false })
    .setLegacyMode(true)
    .analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  expect(serious.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html.slice(0, 160)).join(' | ')}`)).toEqual([]);
}

/** 409: it is so already. */
const line = async (move: 'cut' | 'mend') =>
  expect([200, 409]).toContain((await fetch(`${panel()}/off-site/${move}`, { method: 'POST' })).status);
/** Cuts the line to the off-site place, or mends it. */
export const cutOffSite = (): Promise<void> => line('cut');
export const mendOffSite = (): Promise<void> => line('mend');
