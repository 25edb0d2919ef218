import { AdoptAsk } from '@tally/contract';
import { formatBytes } from '@tally/core/logbook';
import { EXIT, jsonLine, printable, say, WHO, WrongUse } from '../cli/output.js';
import { placesStanding } from '../driving/index.js';
import { type House, Refusal } from '../house/index.js';
import { fillPlace } from '../keeping/index.js';
import { assignmentCalled, contributorByCode } from '../people/index.js';
import { writeManifests } from '../proving/index.js';
import { runAdoption } from './adopting.js';
import { askAdopt } from './asking-to-adopt.js';
import { type Dry, mustBe, type Out, untilOver } from './command-ways.js';
import { foldersSayView } from './reading.js';
import { adoptionById } from './store/adoptions.js';

export interface AdoptOptions {
  readonly place: string;
  readonly contributor?: string;
  readonly assignment?: string;
  readonly title?: string;
  readonly day?: string;
}

export async function saidIn(house: House, options: { contributor?: string; assignment?: string; day?: string }) {
  const contributor = options.contributor === undefined ? undefined : await contributorByCode(house.db, options.contributor);
  if (contributor === null) throw new WrongUse(`There is no contributor ${options.contributor}.`);
  const assignment = options.assignment === undefined ? undefined : await assignmentCalled(house, options.assignment);
  return {
    ...(contributor ? { contributorId: contributor.id } : {}),
    ...(assignment ? { assignmentId: assignment.id } : {}),
    ...(options.day === undefined ? {} : { day: options.day }),
  };
}

export async function adopt(house: House, folder: string, options: Dry & AdoptOptions, signal: AbortSignal): Promise<number> {
  await mustBe(house, options.place);
  const said = await saidIn(house, options);
  const { folders, more } = await foldersSayView(house, options.place, folder.replace(/\/+$/, ''));
  if (!folders.length)
    throw new Refusal('not found', `There are no strays in ${folder}. tally drive check looks at the place again.`);
  for (const one of folders) {
    if (options.json) jsonLine(one);
    else {
      const who = one.contributor?.name ?? options.contributor ?? 'nobody said whose';
      const what = one.assignment?.title ?? one.title ?? options.title ?? options.assignment ?? 'nobody said what';
      const days = one.from ? (one.from === one.to ? one.from : `${one.from} to ${one.to}`) : 'no day';
      say(`${printable(one.folder)}: ${one.files} files, ${printable(who)}, ${printable(what)}, ${days}  (by ${one.by})`);
    }
  }
  if (more) say(`and ${more} more folders: adopt this one by its folders.`);
  if (options.dry) return EXIT.done;
  const answers = folders.map((one) => ({
    folder: one.folder,
    ...(one.contributor ? {} : { contributorId: said.contributorId ?? null }),
    ...(one.assignment ? {} : { assignmentId: said.assignmentId ?? null }),
    title: one.assignment || said.assignmentId ? null : (one.title ?? options.title ?? null),
    day: options.day ?? null,
  }));
  const ask = AdoptAsk.safeParse({ folders: answers });
  if (!ask.success) throw new WrongUse(ask.error.issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join('\n'));
  return adopted(house, await askAdopt(house, options.place, ask.data, WHO), options, signal);
}

export async function adopted(house: House, id: number, options: Out, signal: AbortSignal): Promise<number> {
  await untilOver(
    signal,
    () => house.locks.hold('adopting', id, signal, (inner) => runAdoption(house, id, inner)),
    async () => (await adoptionById(house.db, id))?.state === 'going',
  );
  await writeManifests(house, signal);
  for (const { id: place, standing } of await placesStanding(house))
    if (standing.online) await fillPlace(house, place, signal, false);
  await writeManifests(house, signal);
  const done = (await adoptionById(house.db, id))!;
  if (options.json)
    jsonLine({
      adoption: id,
      state: done.state,
      files: done.files,
      adopted: done.adopted,
      bytes: done.adoptedBytes,
      twins: done.twins,
      problem: done.problem,
    });
  else
    say(
      `Adoption ${id}: ${done.adopted} of ${done.files} files adopted (${formatBytes(done.adoptedBytes)}), ${done.twins} twins left${done.problem ? `; ${done.problem}` : ''}.`,
    );
  return done.state === 'done' && !done.problem ? EXIT.done : EXIT.attention;
}
