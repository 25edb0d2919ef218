import { createHash } from 'node:crypto';
import glob from 'fast-glob';
import pLimit from 'p-limit';
import type { DataSource } from 'typeorm';
import { setTimeout as sleep } from 'node:timers/promises';
import { receiveArrivals } from '../arriving/arrivals.js';
import { actByItself } from '../arriving/by-itself.js';
import { carryOut } from '../filing/carry-out.js';
import { tryAgain } from '../filing/file.js';
import { fillPlace, settleWhole } from '../keeping/fill-place.js';
import { handedInFolder } from '../arriving/hand-in.js';
import { Refusal, type House } from '../house/house.js';
import { writeManifests } from '../proving/manifests.js';
import { placesThere } from '../driving/places.js';
import { readIntake } from '../arriving/read-items.js';
import { cardVanished, receiveCard } from '../arriving/receive.js';
import { watchFolder } from '../drive/watch-folder.js';
import { cardsNow, watchReaders } from '../drive/watch-readers.js';
import { intakesWaitingAt, placesWaiting } from '../filing/store/filed.js';
import { intakesWhere, pathsMissed } from '../house/store/intakes.js';
import { whileLocked } from '../db/lock.js';
import type { Queue } from './queue.js';

/** Cards worked on at once; their batches take turns (`House.turns`), so that a small card need not wait for a large one. */
const CARDS_AT_ONCE = 8;
const READ_AT_ONCE = 2;
/** A place that took nothing is left alone for a while. */
const REST_MS = 60_000;
const SWEEP_MS = 3_000;
const ARRIVALS_MS = 200;

/** Carries out a station's jobs and watches its readers, until told to stop. */
export class Worker {
  private readonly stopping = new AbortController();
  private readonly loops: Promise<void>[] = [];
  private readonly filing = pLimit(CARDS_AT_ONCE);
  private readonly underway = new Set<Promise<unknown>>();
  private readonly mine = new Set<number>();
  private readonly atWork = new Set<string>();
  private readonly resting = new Map<string, number>();
  /** Places that were not there at the last look. */
  private readonly away = new Set<string>();

  constructor(
    private readonly house: House,
    private readonly source: DataSource,
    private readonly queue: Queue,
  ) {}

  async start(): Promise<void> {
    const { station } = this.house.settings;
    await this.queue.work('read', station, READ_AT_ONCE, (id) => this.read(id));
    await this.queue.work('file', station, CARDS_AT_ONCE, (id) => this.file(id));
    this.loops.push(this.sweep(), this.watch(), ...this.house.settings.watched.map((watched) => this.arrivals(watched)));
  }

  async stop(): Promise<void> {
    this.stopping.abort();
    await Promise.allSettled([...this.loops, ...this.underway]);
  }

  private read(intakeId: number): Promise<void> {
    return this.guarded('reading', intakeId, async (signal) => {
      await readIntake(this.house, intakeId, signal);
      if (!signal.aborted) await actByItself(this.house, intakeId);
    });
  }

  /** Files an intake unless this process does so already; what comes too early is found by the next sweep. */
  private async file(intakeId: number): Promise<void> {
    if (this.mine.has(intakeId)) return;
    this.mine.add(intakeId);
    try {
      await this.filing(() => this.guarded('filing', intakeId, (signal) => carryOut(this.house, intakeId, signal)));
    } finally {
      this.mine.delete(intakeId);
    }
  }

  /** Only one process works on an intake; an interruption is no failure: the sweep goes on with it. */
  private async guarded(
    kind: 'reading' | 'filing',
    intakeId: number,
    run: (signal: AbortSignal) => Promise<void>,
  ): Promise<void> {
    const work = whileLocked(this.source, kind, intakeId, this.stopping.signal, run);
    this.underway.add(work);
    try {
      await work;
    } catch (error) {
      if (!this.stopping.signal.aborted)
        this.house.log.error({ intakeId, error: (error as Error).message }, `${kind} was interrupted`);
    } finally {
      this.underway.delete(work);
    }
  }

  /** Finds intakes in state filing that nobody works on: a process was killed, or a job was lost. */
  private async sweep(): Promise<void> {
    const { db, settings, log } = this.house;
    while (!this.stopping.signal.aborted) {
      try {
        const left = await intakesWhere(db, `i.state = 'filing' and i.halt is distinct from 'pause' and i.station = $1`, [
          settings.station,
        ]);
        for (const intake of left) void this.file(intake.id);
        await this.catchUp();
        this.keepUp();
      } catch (error) {
        log.warn({ error: (error as Error).message }, 'sweep');
      }
      await sleep(SWEEP_MS, undefined, { signal: this.stopping.signal }).catch(() => undefined);
    }
  }

  /** Fills places that wait for copies, and writes what is due beside the files. A slow place holds up nobody else. */
  private keepUp(): void {
    const { house, source } = this;
    this.once('beside', async (signal) => {
      await writeManifests(house, signal);
    });
    this.once('places', async (signal) => {
      await settleWhole(house);
      for (const placeId of await placesWaiting(house.db)) {
        if ((this.resting.get(placeId) ?? 0) > Date.now()) continue;
        const key = createHash('sha256').update(placeId).digest().readInt32BE(0);
        this.once(`place ${placeId}`, async () => {
          await whileLocked(source, 'filling', key, signal, async (inner) => {
            const { copies, problems } = await fillPlace(house, placeId, inner);
            if (!copies && problems.length) this.resting.set(placeId, Date.now() + REST_MS);
          });
        });
      }
    });
  }

  /** Runs something behind the sweep unless it runs already. */
  private once(name: string, run: (signal: AbortSignal) => Promise<void>): void {
    if (this.atWork.has(name)) return;
    this.atWork.add(name);
    const { signal } = this.stopping;
    const work = run(signal)
      .catch((error: unknown) => {
        if (!signal.aborted) this.house.log.warn({ name, error: (error as Error).message }, 'keeping up');
      })
      .finally(() => {
        this.atWork.delete(name);
        this.underway.delete(work);
      });
    this.underway.add(work);
  }

  /** A place that was away is back: what waits for it is filed by itself. */
  private async catchUp(): Promise<void> {
    const { db, settings } = this.house;
    const there = await placesThere(db);
    const back = [...there].filter((id) => this.away.has(id));
    for (const { id } of settings.places) if (!there.has(id)) this.away.add(id);
    for (const id of back) this.away.delete(id);
    if (!back.length) return;
    for (const intakeId of await intakesWaitingAt(db, settings.station, back)) {
      // Another worker of this station may have been quicker.
      await tryAgain(this.house, intakeId, settings.station).catch((error: unknown) => {
        if (!(error instanceof Refusal)) throw error;
      });
    }
  }

  /** Watches the station's readers; one process does so for a station, another takes over when it ends. */
  private async watch(): Promise<void> {
    const { settings, log } = this.house;
    const key = createHash('sha256').update(settings.station).digest().readInt32BE(0);
    while (!this.stopping.signal.aborted) {
      try {
        await whileLocked(this.source, 'watching', key, this.stopping.signal, (signal) => this.watchWhile(signal));
      } catch (error) {
        log.warn({ error: (error as Error).message }, 'watching readers');
      }
      await sleep(1_000, undefined, { signal: this.stopping.signal }).catch(() => undefined);
    }
  }

  private async watchWhile(signal: AbortSignal): Promise<void> {
    const { db, settings, log } = this.house;
    // What was handed in through a browser lies in a folder of the server's and is read like any card.
    const readers = [...settings.readers, `${glob.escapePath(handedInFolder(settings.dataDir))}/*`];
    const now = await cardsNow(readers);
    for (const intake of await intakesWhere(db, 'i.present and i.station = $1', [settings.station])) {
      const watched = settings.watched.some(({ folder }) => folder === intake.sourcePath);
      if (!watched && !now.has(intake.sourcePath)) await cardVanished(this.house, intake.sourcePath);
    }
    for await (const { appeared, vanished, now: there } of watchReaders(readers, signal)) {
      for (const path of vanished) await cardVanished(this.house, path);
      // A card can be gone and back between two looks: filing then noticed, and put its intake aside.
      const back = await pathsMissed(db, settings.station, [...there]);
      for (const path of new Set([...appeared, ...back])) {
        await receiveCard(this.house, path, settings.station).catch((error: unknown) =>
          log.warn({ path, error: (error as Error).message }, 'card'),
        );
      }
    }
  }

  /** Watches a folder that files keep arriving in; one process does so for a station. */
  private async arrivals(watched: House['settings']['watched'][number]): Promise<void> {
    const { log } = this.house;
    const key = createHash('sha256').update(`${this.house.settings.station}\0${watched.folder}`).digest().readInt32BE(0);
    while (!this.stopping.signal.aborted) {
      try {
        await whileLocked(this.source, 'watching', key, this.stopping.signal, (signal) => this.arrivalsWhile(watched, signal));
      } catch (error) {
        log.warn({ folder: watched.folder, error: (error as Error).message }, 'watching a folder');
      }
      await sleep(1_000, undefined, { signal: this.stopping.signal }).catch(() => undefined);
    }
  }

  private async arrivalsWhile(watched: House['settings']['watched'][number], signal: AbortSignal): Promise<void> {
    const waiting: { paths?: ReadonlySet<string> } = {};
    const stop = watchFolder(watched.folder, (paths) => {
      waiting.paths = paths;
    });
    try {
      while (!signal.aborted) {
        const { paths } = waiting;
        delete waiting.paths;
        if (paths && !(await receiveArrivals(this.house, watched, paths))) waiting.paths ??= paths;
        await sleep(ARRIVALS_MS, undefined, { signal }).catch(() => undefined);
      }
    } finally {
      await stop();
    }
  }
}
