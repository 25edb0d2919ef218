export default async ({ page, base, shot }) => {
  await page.goto(base + '/rules');
  await page.getByRole('listitem').filter({ hasText: 'unique' }).first().waitFor();
  await page.getByLabel('Begin with a habit').click();
  await page.getByRole('option', { name: /Academic year/ }).click();
  await page.getByRole('button', { name: /How the house writes/ }).click();
  await shot('academic');
  await page.getByRole('button', { name: 'Use dark' }).click().catch(() => {});
  await page.evaluate(() => document.documentElement.classList.add('dark'));
  await page.getByLabel('File line').last().fill('{original}');
  await page.waitForTimeout(700);
  await page.locator('ts-settings-form').scrollIntoViewIfNeeded();
  await shot('dark');
  await page.setViewportSize({ width: 820, height: 1180 });
  await page.evaluate(() => document.documentElement.classList.remove('dark'));
  await shot('tablet');
};
