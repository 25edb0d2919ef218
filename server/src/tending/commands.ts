import { AdoptAsk, CheckAsk, CHECK_HOWS, MendAsk, type MendPlan } from '@tally/contract';
import { FINDINGS, type FindingKind } from '@tally/core/drive';
import { formatBytes } from '@tally/core/logbook';
import { foldName } from '@tally/core/rule';
import type { Command } from 'commander';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Frame } from '../cli/frame.js';
import { EXIT, jsonLine, printable, say, table, WHO, WrongUse } from '../cli/output.js';
import { type House, Refusal } from '../house/index.js';
import { assignmentBySlug, contributorByCode } from '../people/index.js';
import { fillPlace } from '../keeping/index.js';
import { writeManifests } from '../proving/index.js';
import { placesStanding } from '../driving/index.js';
import { askAdopt, goOnAdopting, runAdoption, stopAdoption } from './adopting.js';
import { carryOutAll } from './carrying.js';
import { askCheck, runCheck } from './checking.js';
import { beginMend, planMend, planTakingBack, takeBack } from './mending.js';
import { foldersSayView } from './reading.js';
import { adoptionById } from './store/adoptions.js';
import { checkById } from './store/checks.js';
import { countFindings, findingsAfter } from './store/findings.js';
import { movesOf } from './store/mends.js';
import { straysAfter } from './store/stood.js';
import { itemsIn } from './store/viewing.js';
import { emptyTray } from './tray.js';
import { mendViews, whereLeads } from './viewing.js';

interface Out {
  readonly json?: boolean;
}
interface Dry extends Out {
  readonly dry?: boolean;
}

const MOST = 20_000;

/** `tally drive`: the drive as it is. */
export function addTendingCommands(program: Command, frame: Frame<House>): void {
  const drive = program.command('drive').description('what stands on the places: checked, adopted, mended');
  const on = (command: Command) =>
    command.option('--place <id>', 'which place', 'shared').option('--json', 'one JSON object a line');
  on(drive.command('check'))
    .description('compares a place with the logbook and the house rule')
    .option('--how <way>', CHECK_HOWS.join(', '), 'size and time')
    .option('--no-names', 'without judging names')
    .option('--strict', "names as today's rule gives them, to the letter")
    .option('--kind <kind>', 'only findings of this kind')
    .action((options: Out & { place: string; how: string; names: boolean; strict?: boolean; kind?: string }) =>
      frame.withHouse((house) => check(house, options, frame.signal)),
    );
  on(drive.command('strays'))
    .description('what stands there and nobody filed, as it was seen last')
    .action((options: Out & { place: string }) => frame.withHouse((house) => strays(house, options)));
  on(drive.command('adopt'))
    .description('takes folders of strays into the logbook where they stand')
    .argument('<folder>', 'from the root of the place; with all below it')
    .option('--contributor <code>', 'whose it is, where names do not say')
    .option('--assignment <slug>', 'what it was covered for, where names do not say')
    .option('--title <title>', 'an assignment to be made for what names do not say')
    .option('--day <yyyy-MM-dd>', 'day of files that say none themselves')
    .option('--dry', 'only says what names say')
    .action((folder: string, options: Dry & AdoptOptions) =>
      frame.withHouse((house) => adopt(house, folder, options, frame.signal)),
    );
  on(drive.command('mend'))
    .description('puts right what the last check found')
    .argument('[kinds...]', 'kinds of findings; else all that have a mend')
    .option('--folder <path>', 'only in this folder and below')
    .option('--dry', 'only shows what would be done')
    .action((kinds: string[], options: Dry & { place: string; folder?: string }) =>
      frame.withHouse((house) => mend(house, kinds, options, frame.signal)),
    );
  drive
    .command('re-file')
    .description('gives files the names that the rule gives today, with what is said here')
    .argument('<path...>', 'files or folders, as the logbook has them')
    .option('--contributor <code>', 'whose they are')
    .option('--assignment <slug>', 'what they were covered for')
    .option('--day <yyyy-MM-dd>', 'when they were taken')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((paths: string[], options: Dry & { contributor?: string; assignment?: string; day?: string }) =>
      frame.withHouse(async (house) => {
        const itemIds = await itemsAt(house, paths);
        const ask = { kind: 're-file', itemIds, ...(await saidIn(house, options)) };
        return doMend(house, ask, options, frame.signal);
      }),
    );
  drive
    .command('move')
    .description('gives a folder another name, or moves it to another place')
    .argument('<folder>')
    .argument('[to]', 'its new path')
    .option('--from <place>', 'the place it leaves')
    .option('--to-place <place>', 'the place it goes to')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((folder: string, to: string | undefined, options: Dry & { from?: string; toPlace?: string }) =>
      frame.withHouse((house) => {
        if ((to === undefined) === (options.toPlace === undefined))
          throw new WrongUse('Say a new path, or --to-place with --from.');
        const ask =
          to === undefined
            ? { kind: 'to another place', folder, from: options.from ?? 'shared', to: options.toPlace }
            : { kind: 'rename folder', folder, to };
        return doMend(house, ask, options, frame.signal);
      }),
    );
  drive
    .command('put-aside')
    .description('moves files that should not have been filed into the tray on the drive')
    .argument('<path...>', 'files or folders, as the logbook has them')
    .requiredOption('--why <words>', 'why')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((paths: string[], options: Dry & { why: string }) =>
      frame.withHouse(async (house) =>
        doMend(house, { kind: 'put aside', itemIds: await itemsAt(house, paths), why: options.why }, options, frame.signal),
      ),
    );
  drive
    .command('take-back')
    .description('takes a mend back, as long as nothing else came in between')
    .argument('<mend>', 'its number')
    .option('--dry', 'only shows what would be done')
    .option('--json', 'one JSON object a line')
    .action((id: string, options: Dry) => frame.withHouse((house) => back(house, number(id), options, frame.signal)));
  drive
    .command('mends')
    .description('what was mended, the newest first')
    .option('--json', 'one JSON object a line')
    .action((options: Out) => frame.withHouse((house) => mends(house, options)));
  drive
    .command('empty-tray')
    .description('removes for good what was put aside and whose days are over')
    .option('--sure', 'does it; else only says what would be removed')
    .option('--json', 'one JSON object a line')
    .action((options: Out & { sure?: boolean }) => frame.withHouse((house) => empty(house, options)));
  drive
    .command('stop')
    .description('stops an adoption; what was adopted stays')
    .argument('<adoption>')
    .action((id: string) =>
      frame.withHouse(async (house) => {
        await stopAdoption(house, number(id));
        say(`Adoption ${id} stopped. tally drive go-on ${id} goes on with it.`);
        return EXIT.done;
      }),
    );
  drive
    .command('go-on')
    .description('goes on with an adoption that was stopped')
    .argument('<adoption>')
    .option('--json', 'one JSON object a line')
    .action((id: string, options: Out) =>
      frame.withHouse(async (house) => {
        await goOnAdopting(house, number(id));
        return adopted(house, number(id), options, frame.signal);
      }),
    );
  drive
    .command('where')
    .description('where a path leads that is printed somewhere, whatever it is called by now')
    .argument('<path>')
    .option('--json', 'one JSON object a line')
    .action((path: string, options: Out) =>
      frame.withHouse(async (house) => {
        const leads = await whereLeads(house, path);
        if (options.json) jsonLine(leads);
        else
          say(
            `${leads.path}  (intake ${leads.intakeNumber}${leads.until ? `, called ${path} until ${leads.until.slice(0, 10)}` : ''})`,
          );
        return EXIT.done;
      }),
    );
}

function number(text: string): number {
  if (!/^\d{1,9}$/.test(text)) throw new WrongUse(`${text} is no number.`);
  return Number(text);
}

async function mustBe(house: House, placeId: string): Promise<void> {
  const places = await placesStanding(house);
  if (!places.some(({ id }) => id === placeId))
    throw new WrongUse(`There is no place ${placeId}. Places: ${places.map(({ id }) => id).join(', ')}.`);
}

async function check(
  house: House,
  options: Out & { place: string; how: string; names: boolean; strict?: boolean; kind?: string },
  signal: AbortSignal,
): Promise<number> {
  await mustBe(house, options.place);
  const ask = CheckAsk.safeParse({ how: options.how, names: options.names, strict: options.strict ?? false });
  if (!ask.success) throw new WrongUse(`--how is one of: ${CHECK_HOWS.join(', ')}.`);
  const kind = options.kind === undefined ? null : kindNamed(options.kind);
  const id = await askCheck(house, options.place, ask.data, WHO);
  await untilOver(
    signal,
    () => house.locks.hold('checking', options.place, signal, (inner) => runCheck(house, id, inner)),
    async () => (await checkById(house.db, id))?.state === 'going',
  );
  const done = await checkById(house.db, id);
  if (done?.problem) throw new Refusal('not possible now', done.problem);
  let shown = 0;
  for (let after = 0; ;) {
    const some = await findingsAfter(house.db, options.place, kind, null, after, 500);
    for (const one of some) {
      shown++;
      const { kind: what, path, other, what: words, files, since } = one;
      if (options.json) jsonLine({ id: one.id, kind: what, path, other, what: words, files, since, mend: FINDINGS[what].mend });
      else
        say(
          `${FINDINGS[what].title}: ${printable(path || '(the root)')}${other ? ` → ${printable(other)}` : ''}${words ? `  (${printable(words)})` : ''}`,
        );
    }
    if (some.length < 500) break;
    after = some.at(-1)!.id;
  }
  const counts = await countFindings(house.db, options.place);
  if (!options.json)
    say(
      `${done!.files} files (${formatBytes(done!.bytes)}) in ${done!.folders} folders: ${counts.map(({ kind: what, files }) => `${files} ${FINDINGS[what].title}`).join(', ') || 'everything is as it should be'}.`,
    );
  return shown ? EXIT.attention : EXIT.done;
}

/** Does it, or waits while a station that was quicker does. */
async function untilOver(signal: AbortSignal, work: () => Promise<unknown>, goesOn: () => Promise<boolean>): Promise<void> {
  for (await work(); !signal.aborted && (await goesOn()); await work())
    // Ends early when told to stop.
    await sleep(500, undefined, { signal }).catch(() => undefined);
}

function kindNamed(text: string): FindingKind {
  const found = (Object.keys(FINDINGS) as FindingKind[]).find((kind) => kind === text || FINDINGS[kind].title === text);
  if (!found) throw new WrongUse(`There is no kind of finding ${text}. Kinds: ${Object.keys(FINDINGS).join(', ')}.`);
  return found;
}

async function strays(house: House, options: Out & { place: string }): Promise<number> {
  await mustBe(house, options.place);
  let count = 0;
  for (let after = 0; ;) {
    const some = await straysAfter(house.db, options.place, after, 1000);
    count += some.length;
    for (const { id, path, bytes, since, twin } of some) {
      if (options.json) jsonLine({ id, path, bytes, since, twin });
      else say(`${printable(path)}  ${formatBytes(bytes)}${twin ? `  the same as ${printable(twin)}` : ''}`);
    }
    if (some.length < 1000) break;
    after = some.at(-1)!.id;
  }
  if (!options.json) say(count ? `${count} strays.` : 'No strays.');
  return count ? EXIT.attention : EXIT.done;
}

interface AdoptOptions {
  readonly place: string;
  readonly contributor?: string;
  readonly assignment?: string;
  readonly title?: string;
  readonly day?: string;
}

async function saidIn(house: House, options: { contributor?: string; assignment?: string; day?: string }) {
  const contributor = options.contributor === undefined ? undefined : await contributorByCode(house.db, options.contributor);
  if (contributor === null) throw new WrongUse(`There is no contributor ${options.contributor}.`);
  const assignment = options.assignment === undefined ? undefined : await assignmentBySlug(house.db, options.assignment);
  if (assignment === null) throw new WrongUse(`There is no assignment ${options.assignment}.`);
  return {
    ...(contributor ? { contributorId: contributor.id } : {}),
    ...(assignment ? { assignmentId: assignment.id } : {}),
    ...(options.day === undefined ? {} : { day: options.day }),
  };
}

async function adopt(house: House, folder: string, options: Dry & AdoptOptions, signal: AbortSignal): Promise<number> {
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

async function adopted(house: House, id: number, options: Out, signal: AbortSignal): Promise<number> {
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

async function itemsAt(house: House, paths: readonly string[]): Promise<number[]> {
  const ids: number[] = [];
  for (const path of paths) {
    const found = await itemsIn(house.db, foldName(path.replace(/\/+$/, '')), MOST + 1);
    if (!found.length) throw new Refusal('not found', `Nothing is filed at ${path}.`);
    ids.push(...found);
  }
  if (ids.length > MOST) throw new WrongUse(`More than ${MOST} files: take them folder by folder.`);
  return ids;
}

async function mend(
  house: House,
  kinds: readonly string[],
  options: Dry & { place: string; folder?: string },
  signal: AbortSignal,
): Promise<number> {
  await mustBe(house, options.place);
  const wanted = new Set(kinds.map(kindNamed));
  const ids: number[] = [];
  for (let after = 0; ;) {
    const some = await findingsAfter(house.db, options.place, null, options.folder ?? null, after, 500);
    for (const { id, kind } of some) {
      const can = FINDINGS[kind].mend;
      if (can !== null && can !== 'adopt' && (wanted.size === 0 || wanted.has(kind))) ids.push(id);
    }
    if (some.length < 500) break;
    after = some.at(-1)!.id;
  }
  if (!ids.length) {
    if (!options.json) say('Nothing that was found has a mend. tally drive check looks again.');
    return EXIT.done;
  }
  return doMend(house, { kind: 'findings', ids }, options, signal);
}

async function doMend(house: House, asked: unknown, options: Dry, signal: AbortSignal): Promise<number> {
  const parsed = MendAsk.safeParse(asked);
  if (!parsed.success)
    throw new WrongUse(parsed.error.issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join('\n'));
  const plan = await planMend(house, parsed.data);
  print(plan, options);
  if (options.dry) return plan.faults.length ? EXIT.attention : EXIT.done;
  if (plan.faults.length) return EXIT.attention;
  const answer = await beginMend(house, parsed.data, plan.seal, WHO);
  if (answer.outcome === 'changed') throw new Refusal('conflict', 'Others changed the same files just now. Nothing was begun.');
  return followed(house, answer.id, options, signal);
}

function print(plan: MendPlan, options: Out): void {
  if (options.json) {
    jsonLine(plan);
    return;
  }
  say(`${plan.words}.`);
  for (const { from, to, place } of plan.folders)
    say(`  folder ${printable(from)} → ${printable(to)}${place ? `  on ${place}` : ''}`);
  table(
    ['now', 'then', 'where'],
    plan.steps.map(({ from, to, place }) => [from, to, place ?? 'everywhere']),
  );
  if (plan.moreSteps) say(`  and ${plan.moreSteps} more`);
  for (const words of plan.also) say(`  ${words}`);
  for (const { name, now } of plan.places) say(`  ${name} follows ${now ? 'now' : 'when it is back'}`);
  for (const { path, why } of plan.faults) say(`  in its way: ${printable(path)}: ${printable(why)}`);
}

/** The command line does the work itself, as far as places are here. */
async function followed(house: House, id: number, options: Out, signal: AbortSignal): Promise<number> {
  const moves = () => carryOutAll(house, signal);
  await untilOver(signal, moves, () => waitsHere(house, id));
  for (const { id: place, standing } of await placesStanding(house))
    if (standing.online) await fillPlace(house, place, signal, false);
  await moves();
  await writeManifests(house, signal);
  const view = (await mendViews(house, { before: id + 1, limit: 1 })).mends[0]!;
  if (options.json) jsonLine({ mend: id, state: view.state, waiting: view.waiting, problems: view.problems });
  else {
    say(`Mend ${id}: ${view.state}.${view.state === 'done' ? ` tally drive take-back ${id} takes it back.` : ''}`);
    for (const { place, moves } of view.waiting) say(`  ${place}: ${moves} wait for it`);
    for (const problem of view.problems) say(`  ${printable(problem)}`);
  }
  return view.problems.length ? EXIT.attention : EXIT.done;
}

/** Has a place that is here something of a mend to do yet, beside what waits for copies? */
async function waitsHere(house: House, id: number): Promise<boolean> {
  const here = new Set((await placesStanding(house)).flatMap(({ id: place, standing }) => (standing.online ? [place] : [])));
  return (await movesOf(house.db, id)).some(
    ({ placeId, state, what }) => state === 'waiting' && what !== 'leaves' && here.has(placeId),
  );
}

async function back(house: House, id: number, options: Dry, signal: AbortSignal): Promise<number> {
  const plan = await planTakingBack(house, id);
  print(plan, options);
  if (options.dry || plan.faults.length) return plan.faults.length ? EXIT.attention : EXIT.done;
  return followed(house, await takeBack(house, id, WHO), options, signal);
}

async function mends(house: House, options: Out): Promise<number> {
  let open = false;
  for (let before: number | undefined; ;) {
    const { mends: some, next } = await mendViews(house, { limit: 100, ...(before === undefined ? {} : { before }) });
    for (const one of some) {
      open ||= one.state === 'needs attention';
      if (options.json) jsonLine(one);
      else
        say(
          `${one.id}  ${one.at.slice(0, 16).replace('T', ' ')}  ${one.who}: ${printable(one.words)}  ${one.state}${one.takenBackBy ? `, taken back by ${one.takenBackBy}` : ''}`,
        );
    }
    if (next === null) break;
    before = next;
  }
  return open ? EXIT.attention : EXIT.done;
}

async function empty(house: House, options: Out & { sure?: boolean }): Promise<number> {
  const done = await emptyTray(house, WHO, !options.sure);
  if (options.json) jsonLine(done);
  else {
    say(
      `${done.files} files ${options.sure ? 'removed for good' : 'would be removed for good'}.${options.sure ? '' : ' --sure does it.'}`,
    );
    for (const words of done.stays) say(`  ${printable(words)}`);
  }
  return done.stays.length ? EXIT.attention : EXIT.done;
}
