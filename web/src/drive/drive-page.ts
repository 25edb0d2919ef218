import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, untracked, viewChild } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { Router, RouterLink } from '@angular/router';
import type { MendAsk, PlaceState, StoodFileView } from '@tally/contract';
import { folderOf } from '@tally/core/rule';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { SelectButtonModule } from 'primeng/selectbutton';
import { catchError, combineLatest, of, switchMap } from 'rxjs';
import { DriveService } from '../api/drive.service';
import { wordsFor } from '../api/problem';
import { BytesPipe, CountPipe, HouseTimePipe } from '../shared/amounts';
import { type Act, ActDialog } from './act-dialog';
import { AdoptDialog } from './adopt-dialog';
import type { Dropped } from './dragging';
import { DriveTree } from './drive-tree';
import { FolderSheet } from './folder-sheet';
import { KnownDialog } from './known-dialog';
import { FoundList } from './found-list';
import { MendDialog } from './mend-dialog';
import { MendsList } from './mends-list';
import { PlaceBoard } from './place-board';
import { May } from '../shared/may';

const VIEWS = ['stands', 'found', 'mends'] as const;
type ViewName = (typeof VIEWS)[number];
const HOWS = ['size and time', 'fast identity', 'every byte'] as const;

/** The places and how they stand: what fills them, what stands there, what was found, and what was mended. */
@Component({
  selector: 'ts-drive',
  imports: [
    ...[
      May,
      FormsModule,
      RouterLink,
      ButtonModule,
      InputTextModule,
      SelectModule,
      SelectButtonModule,
      BytesPipe,
      CountPipe,
      HouseTimePipe,
    ],
    ...[ActDialog, AdoptDialog, DriveTree, FolderSheet, FoundList, KnownDialog, MendDialog, MendsList, PlaceBoard],
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './drive-page.html',
  styleUrl: './drive-page.css',
})
export class DrivePage {
  /** What the address says: the place, the view, the folder. */
  readonly place = input<string>();
  readonly view = input<string>();
  readonly folder = input<string>('');
  private readonly service = inject(DriveService);
  private readonly router = inject(Router);
  private readonly messages = inject(MessageService);

  protected readonly places = toSignal(this.service.places.pipe(catchError(() => of([]))), { initialValue: [] });
  protected readonly growth = toSignal(this.service.growth().pipe(catchError(() => of({ months: [] }))), {
    initialValue: { months: [] },
  });
  protected readonly shown = computed(() => this.places().find(({ id }) => id === this.place()) ?? this.places()[0] ?? null);
  /** Other places that carry another mark, as after the database was lost. */
  protected readonly othersMarked = computed(() =>
    this.places().flatMap(({ id, asks }) => (asks === 'another mark' && id !== this.shownId() ? [id] : [])),
  );
  protected readonly names = computed(() => this.places().map(({ name }) => name));
  protected readonly at = computed(() => this.folder() || '');
  protected readonly now = computed<ViewName>(() => VIEWS.find((one) => one === this.view()) ?? 'stands');
  private readonly shownId = computed(() => this.shown()?.id ?? null);
  private readonly stated = toSignal(
    combineLatest([toObservable(this.shownId), this.service.changes]).pipe(
      switchMap(([id]) => (id === null ? of(null) : this.service.state(id).pipe(catchError(() => of(null))))),
    ),
    { initialValue: null },
  );
  protected readonly state = computed<PlaceState | null>(() => this.stated());
  /** Changes when what stands there may be other than what is shown. */
  protected readonly stamp = computed(() => this.stated());
  protected readonly foundFiles = computed(() => (this.state()?.found ?? []).reduce((sum, { files }) => sum + files, 0));
  protected readonly views = computed(() => [
    { view: 'stands', words: 'What stands there' },
    { view: 'found', words: this.foundFiles() ? `Found (${this.foundFiles().toLocaleString()})` : 'Found' },
    { view: 'mends', words: 'Mends' },
  ]);
  protected readonly hows = HOWS.map((how) => ({ how, words: `by ${how}` }));
  protected readonly how = signal<(typeof HOWS)[number]>('size and time');

  private readonly tree = viewChild(DriveTree);
  /** Is there anything to adopt in the folder and below? A folder that the tree does not show may have some. */
  protected readonly hasStrays = computed(() => this.tree()?.chosenFolder()?.strays !== 0);
  protected readonly chosen = signal<readonly StoodFileView[]>([]);
  protected readonly itemIds = computed(() => this.chosen().flatMap(({ item }) => item?.id ?? []));
  protected readonly strays = computed(() => this.chosen().filter(({ item }) => item === null));
  protected readonly act = signal<Act | null>(null);
  protected readonly ask = signal<MendAsk | null>(null);
  protected readonly back = signal<number | null>(null);
  protected readonly adopting = signal<string | null>(null);
  /** Is it being said that this is that drive? */
  protected readonly knowing = signal(false);
  protected readonly problem = signal('');
  /** Other places that somebody should know of, whichever is looked at. */
  protected readonly lagging = computed(() =>
    this.places().filter(({ id, online, waiting }) => id !== this.shownId() && (!online || waiting.copies > 0)),
  );
  protected readonly oneDevice = computed(() => {
    const online = this.places().filter(({ online: here }) => here);
    return online.length > 1 && new Set(online.map(({ device }) => device)).size === 1;
  });

  constructor() {
    effect(() => {
      this.at();
      this.shownId();
      untracked(() => this.problem.set(''));
    });
  }

  protected go(change: { place?: string; view?: string; folder?: string }): void {
    const queryParams = { place: this.shownId(), view: this.now(), folder: this.at() || null, ...change };
    void this.router.navigate(['/drive'], {
      queryParams: { ...queryParams, folder: queryParams.folder === '' ? null : queryParams.folder },
    });
  }

  protected check(): void {
    const id = this.shownId();
    if (id === null) return;
    this.service.check(id, this.how(), false).subscribe({ error: this.failed });
  }

  protected stopCheck(): void {
    const check = this.state()?.check;
    if (check) this.service.stopCheck(check.id).subscribe({ error: this.failed });
  }

  protected stopAdoption(): void {
    const adoption = this.state()?.adoption;
    if (adoption) this.service.stopAdoption(adoption.id).subscribe({ error: this.failed });
  }

  protected goOn(): void {
    const adoption = this.state()?.adoption;
    if (adoption) this.service.goOn(adoption.id).subscribe({ error: this.failed });
  }

  protected asked(ask: MendAsk | null): void {
    this.act.set(null);
    this.ask.set(ask);
  }

  /** What is printed under an old name leads to where it is now. */
  protected lead(path: string): void {
    if (!path.trim()) return;
    this.service.leadsTo(path.trim()).subscribe({
      next: (led) => {
        this.go({ view: 'stands', folder: folderOf(led.path) });
        const since = led.until ? ` It was called ${path.trim()} until ${led.until.slice(0, 10)}.` : '';
        this.messages.add({ severity: 'success', summary: `${led.path}, of intake ${led.intakeNumber}.${since}`, life: 10_000 });
      },
      error: this.failed,
    });
  }

  /** Dropped on a folder: it belongs to what is filed there. */
  protected refile({ what, onto }: Dropped): void {
    this.ask.set(
      what.folder === undefined
        ? { kind: 're-file', itemIds: [...what.itemIds], asIn: onto }
        : { kind: 're-file folder', folder: what.folder, asIn: onto },
    );
  }

  protected straysAside(): void {
    const placeId = this.shownId();
    const within = (name: string) => (this.at() ? `${this.at()}/${name}` : name);
    if (placeId !== null)
      this.ask.set({ kind: 'put strays aside', placeId, paths: this.strays().map(({ name }) => within(name)) });
  }

  protected ended(begun: boolean): void {
    this.ask.set(null);
    this.back.set(null);
    if (begun) this.go({ view: 'mends' });
  }

  protected question(): string {
    return `folder:"${this.at()}"`;
  }

  private readonly failed = (error: unknown) => this.problem.set(wordsFor(error));
}
