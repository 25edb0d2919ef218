import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { HandInChoices, HandInView } from '@tally/contract';
import { catchError, filter, firstValueFrom, forkJoin, of, take } from 'rxjs';
import { HandInService } from '../api/hand-in.service';
import { wordsFor } from '../api/problem';
import type { Notch } from '../stick/draw';
import type { CardFile } from './card-files';
import type { Answer } from './messages';
import { Readers } from './readers';
import { Ended, Mismatch, sendFile } from './sending';

export type FileState = 'reading' | 'ready' | 'filed' | 'sending' | 'arrived' | 'unreadable';

/** A file on its way in. */
export interface Incoming extends CardFile {
  readonly position: number;
  readonly state: FileState;
  readonly quickHash: string;
  readonly captured: string;
  readonly thumbnail: string | null;
  readonly sent: number;
  readonly problem: string | null;
}

/** Files sent at once: while one is hashed, another travels. */
const LANES = 2;
const TRIES = 3;
const PACE_MS = 6_000;

const KEPT = 'tally-hand-ins';
const MOST_KEPT = 12;

/** Hand-ins of this browser: a link may be shared by a class, and nobody sees those of others. */
function remembered(): number[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? '[]');
    return Array.isArray(kept) ? kept.filter((id): id is number => Number.isInteger(id)).slice(0, MOST_KEPT) : [];
  } catch {
    return [];
  }
}

function remember(id: number): void {
  localStorage.setItem(KEPT, JSON.stringify([id, ...remembered().filter((other) => other !== id)].slice(0, MOST_KEPT)));
}

/** Handing in a card: who, what for, the files, and how far they are. */
@Injectable()
export class HandInStore {
  private readonly service = inject(HandInService);
  private readonly readers = inject(Readers);

  readonly choices = signal<HandInChoices | null>(null);
  readonly contributorId = signal<number | null>(null);
  /** Who it is by their own word, when the list does not know them. */
  readonly saysName = signal('');
  readonly knowsWho = computed(() => this.contributorId() !== null || this.saysName().trim() !== '');
  readonly assignmentId = signal<number | null>(null);
  readonly name = signal('');
  readonly files = signal<readonly Incoming[]>([]);
  readonly step = signal<'say' | 'send' | 'paused' | 'done'>('say');
  readonly problem = signal('');
  readonly waiting = signal('');
  readonly handIn = signal<HandInView | null>(null);
  private stop = new AbortController();
  private readonly pace: { at: number; bytes: number }[] = [];
  readonly bytesPerSecond = signal(0);
  /** Files that had arrived already when the same ones were chosen again. */
  readonly goesOn = signal(0);
  /** What this browser handed in before, and how it stands now; the newest first. */
  readonly earlier = signal<readonly HandInView[]>([]);

  readonly counts = computed(() => {
    const files = this.files();
    const of = (state: FileState) => files.filter((file) => file.state === state).length;
    const toSend = files.filter((file) => file.state !== 'filed' && file.state !== 'unreadable');
    return {
      all: files.length,
      ...{ reading: of('reading'), filed: of('filed'), arrived: of('arrived'), unreadable: of('unreadable') },
      toSend: toSend.length,
      bytes: toSend.reduce((sum, { file }) => sum + file.size, 0),
      sent: toSend.reduce((sum, file) => sum + (file.state === 'arrived' ? file.file.size : file.sent), 0),
    };
  });

  readonly ready = computed(() => {
    const { all, reading, toSend } = this.counts();
    return this.knowsWho() && all > 0 && reading === 0 && toSend > 0;
  });

  readonly msLeft = computed(() => {
    const { bytes, sent } = this.counts();
    return this.bytesPerSecond() > 0 ? ((bytes - sent) / this.bytesPerSecond()) * 1000 : null;
  });

  readonly notches = computed<Notch[]>(() => {
    const largest = Math.max(1, ...this.files().map(({ file }) => file.size));
    return this.files().map(({ file, state }) => {
      const copy = state === 'arrived' ? 'cut' : state === 'filed' ? 'double' : state === 'unreadable' ? 'crossed' : 'open';
      const card = state === 'filed' ? 'double' : state === 'unreadable' ? 'crossed' : 'cut';
      return { weight: 0.35 + Math.sqrt(file.size / largest), card, copies: [copy] };
    });
  });

  constructor() {
    this.readers.answers.pipe(takeUntilDestroyed()).subscribe((found) => this.takeRead(found));
    inject(DestroyRef).onDestroy(() => {
      this.stop.abort();
      for (const { thumbnail } of this.files()) if (thumbnail) URL.revokeObjectURL(thumbnail);
    });
  }

  load(): void {
    this.service.choices().subscribe({
      next: (choices) => {
        this.choices.set(choices);
        // What the link is bound to need not be said.
        if (choices.bound.contributorId !== null) this.contributorId.set(choices.bound.contributorId);
        if (choices.bound.assignment) this.assignmentId.set(choices.bound.assignment.id);
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  /** Looks again at what was handed in: by and by it is filed and proven. */
  lookAgain(): void {
    const asked = remembered().map((id) => this.service.one(id).pipe(catchError(() => of(null))));
    if (!asked.length) return;
    forkJoin(asked).subscribe((views) => {
      const known = views.filter((view) => view !== null);
      this.earlier.set(known.filter(({ done }) => done));
      const mine = known.find(({ id }) => id === this.handIn()?.id);
      if (mine && this.step() === 'done') this.handIn.set(mine);
    });
  }

  /** Reads a card that was chosen, in place of what was there. */
  choose({ name, files }: { name: string; files: readonly CardFile[] }): void {
    this.problem.set(files.length ? '' : 'There are no pictures, clips or sounds in there.');
    this.name.set(name);
    const zone = this.choices()?.zone ?? 'UTC';
    this.files.set(
      files.map((file, position) => ({
        ...file,
        ...{ position, state: 'reading' as const, quickHash: '', captured: '', thumbnail: null, sent: 0, problem: null },
      })),
    );
    for (const [id, { file }] of files.entries()) this.readers.ask({ kind: 'read', id, file, zone });
  }

  async start(): Promise<void> {
    const contributorId = this.contributorId();
    const readable = this.files().filter((file) => file.state !== 'unreadable');
    if (!this.knowsWho() || !readable.length) return;
    this.problem.set('');
    try {
      const start = {
        contributorId,
        saysName: contributorId === null ? this.saysName().trim() : '',
        assignmentId: this.assignmentId(),
        name: this.name().trim().slice(0, 60) || 'Hand-in',
        files: readable.map(({ path, file, quickHash }) => {
          return { path, bytes: file.size, modifiedMs: Math.max(0, file.lastModified), quickHash };
        }),
      };
      const handIn = await firstValueFrom(this.service.begin(start));
      this.handIn.set(handIn);
      remember(handIn.id);
      this.goesOn.set(handIn.files.filter(({ state }) => state === 'arrived').length);
      const states = new Map(handIn.files.map((file) => [file.position, file.state]));
      readable.forEach((file, position) => {
        const state = states.get(position);
        this.set(file.position, { state: state === 'wanted' ? 'ready' : state === 'filed' ? 'filed' : 'arrived' });
      });
      await this.send(readable.map(({ position }) => position));
    } catch (error) {
      this.problem.set(wordsFor(error));
    }
  }

  pause(): void {
    this.stop.abort();
    this.step.set('paused');
    this.waiting.set('');
  }

  /** Hands in what has arrived, or goes on with what has not. */
  async finish(withoutMissing: boolean): Promise<void> {
    try {
      this.handIn.set(await firstValueFrom(this.service.done(this.handIn()!.id, withoutMissing)));
      this.step.set('done');
    } catch (error) {
      this.problem.set(wordsFor(error));
    }
  }

  /** @param order positions of the files as the server knows them. */
  private async send(order: readonly number[]): Promise<void> {
    this.step.set('send');
    this.stop = new AbortController();
    const { signal } = this.stop;
    const queue = order.map((position, known) => ({ position, known }));
    const waiting = queue.filter(({ position }) => this.files()[position]!.state === 'ready');
    const lane = async () => {
      for (let next = waiting.shift(); next && !signal.aborted; next = waiting.shift()) await this.sendOne(next, signal);
    };
    await Promise.all(Array.from({ length: LANES }, lane));
    if (signal.aborted) return;
    if (this.files().every((file) => file.state !== 'ready')) await this.finish(this.counts().unreadable > 0);
    else this.step.set('paused');
  }

  private async sendOne({ position, known }: { position: number; known: number }, signal: AbortSignal): Promise<void> {
    const { file } = this.files()[position]!;
    this.set(position, { state: 'sending', sent: 0, problem: null });
    const told = {
      sent: (bytes: number) => {
        this.waiting.set('');
        this.set(position, { sent: bytes });
        this.measure();
      },
      waiting: (why: string) => this.waiting.set(why),
    };
    for (let tries = 1; ; tries++) {
      try {
        const hash = await this.hash(position, file);
        await sendFile(file, { handIn: this.handIn()!.id, position: known, hash }, told, signal);
        this.set(position, { state: 'arrived' });
        return;
      } catch (error) {
        if (error instanceof Mismatch && tries < TRIES) continue;
        if (error instanceof Ended) {
          this.problem.set(error.message);
          this.pause();
        }
        const paused = error instanceof Ended || (error as Error).name === 'AbortError';
        const why = error instanceof Mismatch ? 'it arrived changed, three times over' : (error as Error).message;
        this.set(position, { state: 'ready', sent: 0, problem: paused ? null : why });
        if (!paused) this.problem.set(`${this.files()[position]!.path}: ${why}`);
        return;
      }
    }
  }

  private async hash(id: number, file: File): Promise<string> {
    const found = firstValueFrom(
      this.readers.answers.pipe(
        filter((one) => one.id === id && one.kind !== 'read'),
        take(1),
      ),
    );
    this.readers.ask({ kind: 'hash', id, file });
    const one = await found;
    if (one.kind === 'hash') return one.hash;
    throw new Error('it cannot be read any more: is the card still there?');
  }

  private takeRead(found: Answer): void {
    if (found.kind === 'hash' || !this.files()[found.id]) return;
    if (found.kind === 'failed') {
      if (this.files()[found.id]!.state === 'reading') this.set(found.id, { state: 'unreadable', problem: found.why });
      return;
    }
    const thumbnail = found.thumbnail ? URL.createObjectURL(found.thumbnail) : null;
    this.set(found.id, { state: 'ready', quickHash: found.quickHash, captured: found.captured, thumbnail });
  }

  private set(position: number, change: Partial<Incoming>): void {
    this.files.update((files) => files.map((file, i) => (i === position ? { ...file, ...change } : file)));
  }

  private measure(): void {
    const now = performance.now();
    this.pace.push({ at: now, bytes: this.counts().sent });
    while (this.pace.length > 2 && now - this.pace[0]!.at > PACE_MS) this.pace.shift();
    const first = this.pace[0]!;
    const seconds = (now - first.at) / 1000;
    if (seconds > 0.5) this.bytesPerSecond.set(Math.max(0, (this.counts().sent - first.bytes) / seconds));
  }
}
