import { IntakeRecord } from '@tally/contract';
import { CHECKSUM_FILE, readChecksums, writeChecksums } from '@tally/core/manifest';
import { foldName } from '@tally/core/rule';
import { join } from 'node:path';
import { stands } from '../drive/final-name.js';
import { codeOf } from '../drive/list-card.js';
import { readOwn, writeOwn } from '../drive/own-file.js';
import { inTransaction, type Db } from '../store/database.js';
import { record } from '../store/events.js';
import { foldersOfIntake, lockFolder, recordedItems, talliedIn } from '../store/manifests.js';
import type { House } from './house.js';
import { abilitiesOf, placesNow, type StandingPlace } from './places.js';
import { theIntake } from './slip.js';

/**
 * Writes what explains the files of an intake without this program, into every folder it was filed into and at every
 * place where it tallies: a checksum list of the whole folder, and a record of what the logbook knows. Files of
 * strangers under those names are left alone. What cannot be written is logged; the files themselves are safe by then.
 */
export async function writeManifests(house: House, intakeId: number): Promise<void> {
  const problems: string[] = [];
  const places = new Map((await placesNow(house.db)).map((place) => [place.id, place]));
  for (const { folder, placeIds } of await foldersOfIntake(house.db, intakeId)) {
    const text = `${JSON.stringify(await recordOf(house, intakeId, folder), null, 2)}\n`;
    // Two intakes that end in one folder write one after the other, each with all that tallies by then.
    await inTransaction(house.db, async (tx) => {
      await lockFolder(tx, foldName(folder));
      for (const place of placeIds.flatMap((id) => places.get(id) ?? [])) {
        if (!place.standing.online) continue;
        try {
          problems.push(...(await writeBeside(tx, place, folder, text)));
        } catch (error) {
          problems.push(`${place.name}, ${folder || 'the root'}: ${codeOf(error)}`);
        }
      }
    });
  }
  if (!problems.length) return;
  const text = `Not everything could be written beside the files: ${problems.slice(0, 6).join('; ')}.`;
  await record(house.db, { at: house.clock(), kind: 'manifest', intakeId, who: null, text });
}

async function recordOf(house: House, intakeId: number, folder: string): Promise<IntakeRecord> {
  const intake = await theIntake(house, intakeId);
  return IntakeRecord.parse({
    ...{ format: 'tally-stick-intake', version: 1, house: house.settings.house },
    ...{
      intake: intake.number,
      receivedAt: intake.receivedAt.toISOString(),
      receivedBy: intake.receivedBy,
      station: intake.station,
    },
    ...{ card: intake.card, contributor: intake.contributor, assignment: intake.assignment, rule: intake.ruleRevision },
    ...{ folder, items: await recordedItems(house.db, intakeId, folder) },
  });
}

/** @returns what was left alone because somebody else's file stands there. */
async function writeBeside(db: Db, place: StandingPlace, folder: string, recordText: string): Promise<string[]> {
  const path = join(place.root, folder);
  const { links } = await abilitiesOf(place);
  const strangers: string[] = [];
  const write = async (name: string, content: string, isOurs: (text: string) => boolean) => {
    const there = await readOwn(path, name);
    if (there === content) return;
    const mayWrite = there === null || isOurs(there);
    if (!mayWrite || !(await writeOwn(path, name, content, there !== null, links))) {
      strangers.push(`${place.name}: ${join(folder, name)} is not ours`);
    }
  };
  const known = await talliedIn(db, foldName(folder), place.id);
  const names = new Set(known.map(({ name }) => name));
  const before = readChecksums((await readOwn(path, CHECKSUM_FILE)) ?? '') ?? [];
  // What an earlier logbook wrote down stays, as long as the file is there.
  for (const entry of before) if (!names.has(entry.name) && (await stands(join(path, entry.name)))) known.push(entry);
  await write(CHECKSUM_FILE, writeChecksums(known), (text) => readChecksums(text) !== null);
  const number = (JSON.parse(recordText) as IntakeRecord).intake;
  await write(`intake-${number}.json`, recordText, (text) => isRecordOf(text, number));
  return strangers;
}

function isRecordOf(text: string, number: string): boolean {
  try {
    return IntakeRecord.parse(JSON.parse(text)).intake === number;
  } catch {
    return false;
  }
}
