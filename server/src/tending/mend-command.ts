import { MendAsk, type MendPlan } from '@tally/contract';
import { FINDINGS } from '@tally/core/drive';
import { foldName } from '@tally/core/rule';
import { EXIT, jsonLine, printable, say, table, WHO, WrongUse } from '../cli/output.js';
import { placesStanding } from '../driving/index.js';
import { type House, Refusal } from '../house/index.js';
import { fillPlace } from '../keeping/index.js';
import { writeManifests } from '../proving/index.js';
import { carryOutAll } from './carrying.js';
import { kindNamed } from './check-command.js';
import { type Dry, MOST, mustBe, type Out, untilOver } from './command-ways.js';
import { beginMend, planMend, planTakingBack, takeBack } from './mending.js';
import { findingsAfter, findingsById } from './store/findings.js';
import { movesOf } from './store/mends.js';
import { itemsIn } from './store/viewing.js';
import { emptyTray } from './tray.js';
import { mendViews } from './viewing.js';

export async function itemsAt(house: House, paths: readonly string[]): Promise<number[]> {
  const ids: number[] = [];
  for (const path of paths) {
    const found = await itemsIn(house.db, foldName(path.replace(/\/+$/, '')), MOST + 1);
    if (!found.length) throw new Refusal('not found', `Nothing is filed at ${path}.`);
    ids.push(...found);
  }
  if (ids.length > MOST) throw new WrongUse(`More than ${MOST} files: take them folder by folder.`);
  return ids;
}

export async function mend(
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
    if (ids.length > MOST) say(`More than ${MOST}: these are the first of them. Say it again for the next.`);
    if (some.length < 500 || ids.length > MOST) break;
    after = some.at(-1)!.id;
  }
  if (!ids.length) {
    if (!options.json) say('Nothing that was found has a mend. tally drive check looks again.');
    return EXIT.done;
  }
  // What earlier mends left to places that are here is done first: it would be in the way.
  if (!options.dry) await carryOutAll(house, signal);
  const { free, inTheWay } = await withoutFaults(house, ids.slice(0, MOST));
  for (const { path, why } of inTheWay) if (!options.json) say(`  left out: ${printable(path)}: ${printable(why)}`);
  if (!free.length) throw new Refusal('conflict', 'Nothing of what was found can be mended now: see why above.');
  const code = await doMend(house, { kind: 'findings', ids: free }, options, signal);
  return inTheWay.length ? EXIT.attention : code;
}

/** Findings that can be mended now; what is in the way of the others keeps nothing else waiting. */
async function withoutFaults(house: House, ids: readonly number[]) {
  const inTheWay: MendPlan['faults'] = [];
  let free = [...ids];
  while (free.length) {
    const { faults } = await planMend(house, { kind: 'findings', ids: free });
    if (!faults.length) break;
    const paths = new Set(faults.map(({ path }) => path));
    const blocked = new Set(
      (await findingsById(house.db, free))
        .filter(({ path, other }) => paths.has(path) || paths.has(other ?? ''))
        .map(({ id }) => id),
    );
    // Of something that is none of theirs: then nothing can be told apart.
    if (!blocked.size) return { free: [], inTheWay: [...inTheWay, ...faults] };
    inTheWay.push(...faults);
    free = free.filter((id) => !blocked.has(id));
  }
  return { free, inTheWay };
}

export async function doMend(house: House, asked: unknown, options: Dry, signal: AbortSignal): Promise<number> {
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

export async function back(house: House, id: number, options: Dry, signal: AbortSignal): Promise<number> {
  const plan = await planTakingBack(house, id);
  print(plan, options);
  if (options.dry || plan.faults.length) return plan.faults.length ? EXIT.attention : EXIT.done;
  return followed(house, await takeBack(house, id, WHO), options, signal);
}

export async function mends(house: House, options: Out): Promise<number> {
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

export async function empty(house: House, options: Out & { sure?: boolean }, signal: AbortSignal): Promise<number> {
  const done = await emptyTray(house, WHO, !options.sure, signal);
  if (options.json) jsonLine(done);
  else {
    say(
      `${done.files} files ${options.sure ? 'removed for good' : 'would be removed for good'}.${options.sure ? '' : ' --sure does it.'}`,
    );
    for (const words of done.stays) say(`  ${printable(words)}`);
  }
  return done.stays.length ? EXIT.attention : EXIT.done;
}
