export default async ({ page, base, shot }) => {
  await page.goto(base + '/rules');
  await page.getByRole('listitem').filter({ hasText: 'unique' }).first().waitFor();
  await shot('rules');
};
