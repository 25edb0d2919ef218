import { inTransaction } from '../db/database.js';
import { EXIT, jsonLine, say, table, WHO } from '../cli/output.js';
import { setTimeout as sleep } from 'node:timers/promises';
import { readIntake } from './read-items.js';
import { receiveCard } from './receive.js';
import { changeSlip, whyLeft } from '../slip/index.js';
import { happens, type House, theIntake } from '../house/index.js';
import { giveBack } from '../counter/index.js';
import { beginFiling, carryOut, copiesOf, planOf } from '../filing/index.js';
import { writeManifests } from '../proving/index.js';
import { itemsOf } from '../seeing/index.js';
import { slipOf, type SlipOptions } from '../people/index.js';

/** Receives, reads, files and tallies a folder in this process. @returns the intake's id. */
export async function fileFolder(
  house: House,
  folder: string,
  options: SlipOptions & { label?: string },
  who: string,
  signal: AbortSignal,
): Promise<number> {
  const slip = await slipOf(house, options);
  const intakeId = await receiveCard(house, folder, who);
  await readIntake(house, intakeId, signal);
  const { state } = await theIntake(house, intakeId);
  if (state === 'open') {
    const cardLabel = options.label;
    await changeSlip(
      house,
      intakeId,
      { contributorId: slip.contributor.id, assignmentId: slip.assignment.id, ...(cardLabel ? { cardLabel } : {}) },
      who,
    );
  }
  if (state !== 'filing') {
    // Nothing was on screen, so a plan that changed since it was made is simply taken as it is now.
    let { view } = await planOf(house, intakeId);
    while (view.placements.length) {
      const answer = await beginFiling(house, intakeId, view.seal, who);
      if (answer.outcome === 'begun') break;
      view = answer.plan;
    }
  }
  // A server of the same station may have taken the job: then wait for it.
  for (;;) {
    const now = await theIntake(house, intakeId);
    if (now.state !== 'filing' || now.paused) break;
    const ours = await house.locks.hold('filing', intakeId, signal, (inner) => carryOut(house, intakeId, inner));
    if (!ours) await sleep(300);
  }
  return intakeId;
}

/** `tally file FOLDER`: files what is not filed yet and proves every copy. A second run files nothing twice. */
export async function fileCommand(
  house: House,
  folder: string,
  options: SlipOptions & { label?: string },
  signal: AbortSignal,
): Promise<number> {
  const intakeId = await fileFolder(house, folder, options, 'command line', signal);
  await writeManifests(house, signal);
  const intake = await theIntake(house, intakeId);
  await inTransaction(house.db, (tx) => happens(tx, house, intakeId, { what: 'pulled' }));
  // A folder that was filed is done with: back where it came from, by the rule of the trays.
  if (intake.state === 'tallied') await giveBack(house, intakeId, WHO);

  const copies = await copiesOf(house.db, intakeId);
  const filed = new Set(copies.map((copy) => copy.from));
  const left = (await itemsOf(house.db, intakeId)).filter((item) => !filed.has(item.path));
  const reasonOf = (item: (typeof left)[number]) => whyLeft(item) ?? 'not filed yet';
  if (options.json) {
    for (const copy of copies)
      jsonLine({
        from: copy.from,
        to: copy.to,
        hash: copy.hash,
        copies: copy.copies.map(({ place, state }) => ({ place, state })),
      });
    for (const item of left)
      jsonLine({ from: item.path, to: item.alreadyFiled?.path ?? null, left: true, reason: reasonOf(item) });
  } else {
    table(
      ['from', 'to', 'copies'],
      [
        ...copies.map((copy) => [copy.from, copy.to, copy.copies.map((c) => `${c.place} ${c.state}`).join(', ')]),
        ...left.map((item) => [item.path, 'left on the card', reasonOf(item)]),
      ],
    );
    say(`Intake ${intake.number}: ${intake.state}.${intake.note ? ` ${intake.note}` : ''}`);
  }
  const open = intake.state === 'open' && left.every((item) => item.setAside !== null || item.alreadyFiled?.confirmed);
  return intake.state === 'tallied' || intake.state === 'closed' || open ? EXIT.done : EXIT.attention;
}
