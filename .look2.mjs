export default async ({ page, base, shot }) => {
  await page.goto(base + '/rules');
  await page.getByRole('listitem').filter({ hasText: 'unique' }).first().waitFor();
  await shot('rules');
  await page.getByLabel('Begin with a habit').click();
  await shot('starters');
  await page.getByRole('option', { name: /Surname, date/ }).click();
  await page.waitForTimeout(800);
  await page.getByRole('button', { name: 'field {contributor.surname:slug}' }).click();
  await shot('piece');
  await page.keyboard.press('Escape');
  await page.getByLabel('File line').last().fill('{captured:yyyyMMdd}_{orginal}');
  await shot('fault');
};
