import { inTransaction } from './db/database.js';
import { EXIT, WrongUse } from './cli/output.js';
import { Day, NewAssignment, NewContributor, NewThing, Role } from '@tally/contract';
import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import { z } from 'zod';
import { CreditStory, tellCredit, tellShown } from './credit-story.js';
import { ShelfStory, tellShelf, tellStanding } from './shelf-story.js';
import { fileFolder } from './arriving/file-command.js';
import { happens, type House } from './house/index.js';
import { addPerson } from './door/index.js';
import { contributorByCode, makeAssignment, makeContributor, rememberCamera } from './people/index.js';
import { fillPlace } from './keeping/index.js';
import { giveBack, lend, makeThing, takeBack } from './counter/index.js';
import { writeManifests } from './proving/index.js';
import { listPlaces } from './driving/index.js';

/** What happened before today, to be carried out through the ordinary use cases: for demonstrations and tests. */
const Story = z.strictObject({
  people: z.array(z.strictObject({ name: z.string(), password: z.string(), role: Role })),
  contributors: z.array(NewContributor),
  assignments: z.array(z.strictObject({ assignment: NewAssignment, expected: z.array(z.string()) })),
  cameras: z.array(z.strictObject({ make: z.string(), model: z.string(), serial: z.string(), contributor: z.string() })),
  intakes: z.array(
    z.strictObject({
      at: z.iso.datetime(),
      folder: z.string(),
      contributor: z.string(),
      assignment: z.string(),
      label: z.string(),
      receivedBy: z.string(),
      givenBack: z.boolean(),
    }),
  ),
  lending: z
    .array(
      NewThing.extend({
        lent: z.strictObject({ at: z.iso.datetime(), to: z.string(), due: Day.nullable(), note: z.string() }).nullable(),
        back: z.iso.datetime().nullable(),
      }),
    )
    .default([]),
  credit: CreditStory.optional(),
  shelf: ShelfStory.optional(),
});

export type Story = z.infer<typeof Story>;

/** @throws WrongUse when the file holds no story. */
export async function readStory(file: string): Promise<Story> {
  const parsed = Story.safeParse(JSON.parse(await readFile(file, 'utf8')));
  if (!parsed.success) throw new WrongUse(`${file}: ${z.prettifyError(parsed.error)}`);
  return parsed.data;
}

/** `tally replay STORY.json`: the clock stands at each intake's time while it is filed. */
export async function replayCommand(
  house: House,
  story: Story,
  folderOfStory: string,
  clock: { now: Date },
  signal: AbortSignal,
): Promise<number> {
  for (const person of story.people) await addPerson(house.db, person.name, person.password, person.role, clock.now);
  for (const contributor of story.contributors) await makeContributor(house, contributor, 'replay');
  for (const { assignment, expected } of story.assignments) {
    const found = await Promise.all(expected.map((code) => contributorByCode(house.db, code)));
    const expectedContributorIds = found.flatMap((contributor) => (contributor ? [contributor.id] : []));
    await makeAssignment(house, { ...assignment, expectedContributorIds }, 'replay');
  }
  for (const { contributor, ...body } of story.cameras)
    await rememberCamera(house.db, body, (await contributorByCode(house.db, contributor))?.id ?? null);
  if (story.credit) await tellCredit(house, story.credit);
  for (const [index, intake] of story.intakes.entries()) {
    if (story.shelf) await tellStanding(house, story.shelf, story.intakes.length - index);
    clock.now = new Date(intake.at);
    const folder = resolve(folderOfStory, intake.folder);
    const id = await fileFolder(house, folder, intake, intake.receivedBy, signal);
    await inTransaction(house.db, (tx) => happens(tx, house, id, { what: 'pulled' }));
    clock.now = new Date(clock.now.getTime() + 20 * 60_000);
    if (intake.givenBack) await giveBack(house, id, intake.receivedBy);
  }
  if (story.credit) await tellShown(house, story.credit.shown);
  if (story.shelf) {
    await tellStanding(house, story.shelf, 0);
    await tellShelf(house, story.shelf);
  }
  for (const { lent, back, ...thing } of story.lending) {
    const key = await makeThing(house, thing, 'replay');
    const borrower = lent && (await contributorByCode(house.db, lent.to));
    if (!borrower) continue;
    clock.now = new Date(lent.at);
    await lend(house, { things: [key], contributorId: borrower.id, due: lent.due, note: lent.note }, 'wren');
    if (!back) continue;
    clock.now = new Date(back);
    await takeBack(house, [key], false, 'wren');
  }
  for (const { id, fill } of await listPlaces(house)) if (fill === 'later') await fillPlace(house, id, signal, false);
  await writeManifests(house, signal);
  return EXIT.done;
}
