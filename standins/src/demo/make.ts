import { existsSync } from 'node:fs';
import { mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { DEMO_CARDS, makeCards } from './cards.js';
import { ABOUT, AGREEMENTS, HABITS, LOCATIONS, OF_ASSIGNMENTS, PICTURED, SHOWN, TERMS, WORDS } from './credit.js';
import { makeCupboard } from './cupboard.js';
import { LENT } from './lent.js';
import { makePast } from './past.js';
import { SHELF } from './shelf.js';
import { ACCOUNTS, ASSIGNMENTS, BODIES, CONTRIBUTORS } from './people.js';

/**
 * Makes the demonstration's cards (`box/`), an old drive (`cupboard/`), earlier hand-ins (`past/`) and the story that files them (`story.json`).
 * Everything is drawn from fixed seeds. Run with the folder as the only argument; the folder appears when it is whole.
 */
const target = process.argv[2];
if (!target) throw new Error('usage: make FOLDER');
// Another copy of the project may draw the same just now: whoever is first is as good.
const half = `${target}.half-${process.pid}`;
await rm(half, { recursive: true, force: true });
await mkdir(join(half, 'box'), { recursive: true });
await makeCards(join(half, 'box'));
await makeCupboard(join(half, 'cupboard'));
const intakes = await makePast(half, join(half, 'box'));
const story = {
  people: ACCOUNTS,
  contributors: CONTRIBUTORS,
  assignments: ASSIGNMENTS.map(({ cards, expected, ...assignment }) => ({
    assignment: { ...assignment, expectedCards: cards },
    expected,
  })),
  cameras: ['IB', 'MS', 'JA', 'HM', 'TRO', 'PL'].map((code) => {
    const { make, model, serial } = BODIES[code]!;
    return { make, model, serial, contributor: code };
  }),
  intakes,
  lending: LENT,
  shelf: SHELF,
  credit: {
    ...{ terms: TERMS, locations: LOCATIONS, words: WORDS, pictured: PICTURED, shown: SHOWN },
    ...{ about: ABOUT, agreements: AGREEMENTS, ofAssignments: OF_ASSIGNMENTS, habits: HABITS },
  },
};
await writeFile(join(half, 'story.json'), JSON.stringify(story, null, 1));
await writeFile(join(half, 'cards.json'), JSON.stringify(DEMO_CARDS, null, 1));
await rename(half, target).catch(async (error: unknown) => {
  if (!existsSync(join(target, 'story.json'))) throw error;
  await rm(half, { recursive: true, force: true });
});
