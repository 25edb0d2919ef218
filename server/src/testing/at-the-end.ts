/** What a file of tests ends when all of them are over: `tests/support/at-the-end` does it. */
const ends: (() => Promise<void>)[] = [];

export const atTheEnd = (end: () => Promise<void>): unknown => ends.push(end);

export async function endAll(): Promise<void> {
  for (const end of ends.splice(0)) await end();
}
