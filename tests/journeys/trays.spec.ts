import { expect, test, type Locator, type Page } from '@playwright/test';
import { putInLike } from '../support/cards.js';
import { base } from '../support/my-house.js';
import { expectAccessible, signIn, tile } from '../support/person.js';

/** A hand scanner: it types faster than anybody, however busy this machine is, and ends with Enter. */
const scan = (page: Page, label: string) =>
  page.evaluate(
    (keys) => {
      const began = performance.now();
      for (const [index, key] of keys.entries()) {
        const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true });
        Object.defineProperty(event, 'timeStamp', { value: began + 4 * index });
        document.body.dispatchEvent(event);
      }
    },
    [...Array.from(label), 'Enter'],
  );

/** Drags a card to another tray. What comes of it is for the test to see: the tray says where it lies, or why not. */
async function drag(page: Page, from: Locator, to: Locator): Promise<void> {
  const shelf = to.locator('.shelf');
  // What happened just before is still told: the trays are to stand still.
  await page.waitForTimeout(600);
  await from.scrollIntoViewIfNeeded();
  const start = (await from.boundingBox())!;
  // Where many lie in a tray a card is a line.
  const middle = Math.min(60, start.height / 2);
  await page.mouse.move(start.x + 60, start.y + middle);
  await page.mouse.down();
  await page.mouse.move(start.x + 75, start.y + middle + 15, { steps: 3 });
  await expect(page.locator('.cdk-drag-preview')).toBeVisible();
  // Lifted, it may have made room: where the tray is now.
  const end = (await shelf.boundingBox())!;
  await page.mouse.move(end.x + 300, end.y + end.height / 2, { steps: 8 });
  await page.waitForTimeout(200);
  await page.mouse.move(end.x + 304, end.y + end.height / 2 + 2, { steps: 2 });
  await page.mouse.up();
  await expect(page.locator('.cdk-drag-preview')).toHaveCount(0);
}

const tray = (page: Page, name: string) => page.getByRole('region', { name, exact: true });

test('a house card: lent, scanned in, known by its label, moved by drag and key, given back by a scan', async ({ page }) => {
  test.setTimeout(120_000);
  await page.setViewportSize({ width: 1280, height: 2800 });
  await signIn(page);
  await expect(tray(page, 'In').getByText('not read for 1 day')).toBeVisible();
  await expect(tray(page, 'Out')).toContainText('2 overdue');
  await page.getByRole('link', { name: 'Lending list' }).click();
  await expect(page.getByText('6 of 11 out, 2 overdue')).toBeVisible();
  await expectAccessible(page);
  await page.getByLabel('Choose H-01').check();
  await page.getByRole('button', { name: 'Lend 1 thing…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Lend H-01' });
  await dialog.getByLabel('To whom?').fill('lind');
  await page.getByRole('option', { name: 'Priya Lind' }).click();
  const due = dialog.getByRole('combobox', { name: 'Due' });
  await due.fill('');
  await due.pressSequentially('21/04/2026');
  await page.keyboard.press('Tab');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Lend H-01' }).click();
  await expect(page.getByRole('row', { name: /H-01/ })).toContainText('Priya Lind');
  await expect(page.getByRole('row', { name: /H-01/ })).toContainText('due today');

  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await expect(tray(page, 'Out').getByLabel('H-01 is with Priya Lind')).toBeVisible();
  await scan(page, 'H-01');
  await expect(page.getByText('H-01 is handed in.')).toBeVisible();
  const handedIn = tray(page, 'In').getByLabel('Card H-01, handed in, not read');
  await expect(handedIn).toContainText('Priya Lind');
  await drag(page, handedIn, tray(page, 'To give back'));
  await expect(page.getByText('Card H-01 stays where it is. It leaves this tray through the desk: open it first.')).toBeVisible();
  await expect(handedIn).toBeVisible();

  // The card comes into a reader, new to everybody: its tape says which it is.
  putInLike('BRISLING_POND', 'HOUSE_CARD');
  await tile(page, 'In', 'HOUSE_CARD').click();
  await expect(page.getByRole('option').first()).toBeVisible();
  await scan(page, 'H-01');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('Card H-01');
  await page.getByRole('listbox', { name: 'Items on this card' }).focus();
  await page.keyboard.press('n');
  await expect(page.getByRole('button', { name: 'File 0' })).toBeVisible();

  await page.getByRole('link', { name: 'Desk', exact: true }).click();
  await expect(handedIn).toHaveCount(0);
  const card = (where: 'On the desk' | 'In' | 'To give back') => tile(page, where, 'H-01');
  await card('On the desk').focus();
  await page.keyboard.press('o');
  await expect(page.getByText(/It goes to “to give back” first/)).toBeVisible();
  await page.keyboard.press('i');
  await expect(card('In')).toBeVisible();
  await drag(page, card('In'), tray(page, 'On the desk'));
  await expect(card('On the desk')).toBeVisible();
  await drag(page, card('On the desk'), tray(page, 'To give back'));
  await expect(card('To give back')).toBeVisible();
  await expectAccessible(page);
  await scan(page, 'h-01');
  await expect(page.getByText('H-01 is given back.')).toBeVisible();
  await expect(card('To give back')).toHaveCount(0);

  // What nobody knows yet is added; what is lent comes back by its scan.
  await scan(page, 'K-9');
  await expect(page.getByRole('dialog', { name: 'New on the lending list' })).toContainText('Nothing carries the label K-9 yet.');
  await page.goto(`${base()}/desk`);
  await expect(tray(page, 'Out')).toBeVisible();
  await scan(page, 'R-2');
  await expect(page.getByText('R-2 is back from Wren Castell.')).toBeVisible();
});
