import { isHeld } from '../db/locks.js';
import { listCard } from '../drive/list-card.js';
import { isBareMountPoint, standsAt } from '../drive/card-identity.js';
import glob from 'fast-glob';
import { setTimeout as sleep } from 'node:timers/promises';
import { watchFolder } from '../drive/watch-folder.js';
import { cardsNow, watchReaders } from '../drive/watch-readers.js';
import { receiveArrivals } from './arrivals.js';
import { handedInFolder } from './hand-in.js';
import { cardVanished, receiveCard } from './receive.js';
import { isWorkBegun } from '../clearing/index.js';
import { type House, intakesWhere, type Lying, lyingAt } from '../house/index.js';

/** Runs what one process does for a station; another takes over when that one ends. */
async function oneOfUs(
  house: House,
  of: string,
  signal: AbortSignal,
  run: (signal: AbortSignal) => Promise<void>,
): Promise<void> {
  while (!signal.aborted) {
    try {
      await house.locks.hold('watching', of, signal, run);
    } catch (error) {
      house.log.warn({ of, error: (error as Error).message }, 'watching');
    }
    // Ends early when told to stop.
    await sleep(house.intervals.standbyMs, undefined, { signal }).catch(() => undefined);
  }
}

/** Watches the station's readers. */
export function watchStation(house: House, signal: AbortSignal): Promise<void> {
  return oneOfUs(house, house.settings.station, signal, (inner) => watchWhile(house, inner));
}

async function watchWhile(house: House, signal: AbortSignal): Promise<void> {
  const { db, settings, log, intervals } = house;
  // What was handed in through a browser lies in a folder of the server's and is read like any card.
  const readers = [...settings.readers, `${glob.escapePath(handedInFolder(settings.dataDir))}/*`];
  const now = await cardsNow(readers);
  for (const intake of await intakesWhere(db, 'i.present and i.station = $1', [settings.station])) {
    const watched = settings.watched.some(({ folder }) => folder === intake.sourcePath);
    if (!watched && !now.has(intake.sourcePath)) await cardVanished(house, intake.sourcePath);
  }
  /** Looked at again next time: nothing in them but the place where a card is mounted, or they could not be received. */
  let later = new Set<string>();
  let lying: Lying[] = [];
  let askAgainAt = 0;
  for await (const { appeared, vanished, now: there } of watchReaders(readers, signal, intervals.readersMs)) {
    for (const path of vanished) await cardVanished(house, path);
    // Cards that lie where they lay are looked at each time; the database is asked again when something is new.
    if (appeared.length || vanished.length || later.size || Date.now() >= askAgainAt) {
      lying = there.size ? await lyingAt(db, settings.station, [...there]) : [];
      askAgainAt = Date.now() + intervals.lyingMs;
    }
    // A mount point stays when its card is gone; another card may be there by now, or the same, formatted.
    let away = await unlessStanding(lying.filter(({ present }) => present));
    if (away.length) {
      // By what is known of them now.
      lying = await lyingAt(db, settings.station, [...there]);
      away = await unlessStanding(lying.filter(({ present }) => present));
    }
    const gone = new Set<string>();
    for (const card of away)
      // What is cleared or restored just now is known by something else in a moment.
      if (
        !(await isHeld(db, 'card', card.intakeId)) &&
        !(await isWorkBegun(db, card.intakeId)) &&
        (await cardVanished(house, card.sourcePath, card))
      )
        gone.add(card.sourcePath);
    // A card can be gone and back between two looks: filing then noticed, and put its intake aside.
    const missed = lying.flatMap(({ present, sourcePath }) => (present ? [] : [sourcePath]));
    const waiting = later;
    later = new Set();
    for (const path of new Set([...appeared, ...missed, ...gone, ...waiting])) {
      if (!there.has(path)) continue;
      // Nor is a card that lay there a new one when its files are gone.
      const wasHere = lying.some(({ sourcePath }) => sourcePath === path) && !appeared.includes(path);
      if ((await isBareMountPoint(path)) || (wasHere && (await holdsNothing(path)))) {
        later.add(path);
        continue;
      }
      // What lies there is another card by then, or the same one that is back.
      askAgainAt = 0;
      await receiveCard(house, path, settings.station).catch((error: unknown) => {
        log.warn({ path, error: (error as Error).message }, 'card');
        later.add(path);
      });
    }
  }
}

/** Those whose card is not there any more. */
async function unlessStanding(lying: readonly Lying[]): Promise<Lying[]> {
  const standing = await Promise.all(lying.map((card) => standsAt(card.sourcePath, card)));
  return lying.filter((_, index) => !standing[index]);
}

/** Is there no file in a folder, however many folders are? What cannot be listed is for whoever receives it to say. */
const holdsNothing = (path: string): Promise<boolean> =>
  listCard(path).then(
    (entries) => entries.length === 0,
    () => false,
  );

/** Watches a folder that files keep arriving in. */
export function watchArrivals(house: House, watched: House['settings']['watched'][number], signal: AbortSignal): Promise<void> {
  return oneOfUs(house, `${house.settings.station}\0${watched.folder}`, signal, (inner) => arrivalsWhile(house, watched, inner));
}

async function arrivalsWhile(house: House, watched: House['settings']['watched'][number], signal: AbortSignal): Promise<void> {
  const waiting: { paths?: ReadonlySet<string> } = {};
  const stop = watchFolder(
    watched.folder,
    (paths) => {
      waiting.paths = paths;
    },
    house.intervals.folderMs,
  );
  try {
    while (!signal.aborted) {
      const { paths } = waiting;
      delete waiting.paths;
      if (paths && !(await receiveArrivals(house, watched, paths))) waiting.paths ??= paths;
      // Ends early when told to stop.
      await sleep(house.intervals.arrivalsMs, undefined, { signal }).catch(() => undefined);
    }
  } finally {
    await stop();
  }
}
