import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { HandInView } from '@tally/contract';
import { Router } from '@angular/router';
import { formatBytes, formatDuration } from '@tally/core/logbook';
import { ConfirmationService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { timer } from 'rxjs';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { HandInService } from '../api/hand-in.service';
import { needsOf, wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { Stick } from '../stick/stick';
import { fromDrop, fromPicker } from './card-files';
import { HandInStore } from './hand-in-store';
import { Readers } from './readers';

const SHOWN = 240;
/** How often what was handed in is looked at again. */
const LOOK_MS = 10_000;

/** The secret of a link, as long as it stands in the address. */
const tokenHere = () => /^#k=(.+)$/.exec(globalThis.location.hash)?.[1];

/** Handing in a card from any workstation: who am I, what is it for, where is it. Then it is sent and proven. */
@Component({
  selector: 'ts-hand-in',
  imports: [FormsModule, ButtonModule, InputTextModule, SelectModule, Stick],
  providers: [HandInStore, Readers],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <header>
      <ts-stick class="mark" [notches]="mark" />
      <span>{{ store.choices()?.house }}</span>
      @if (until(); as time) {
        <span class="quiet">this link is good until {{ time }}</span>
      }
    </header>
    @switch (store.step()) {
      @case ('done') {
        <main class="end">
          <h1>{{ endWords() }}</h1>
          <ts-stick class="stick" [notches]="store.notches()" />
          @if (store.handIn()?.intakeNumber; as number) {
            <p>
              It is intake <b>{{ number }}</b> now, and lies on the coordinator’s desk.
            </p>
          }
          <p>Nothing at your place was changed.</p>
          @if (store.handIn(); as mine) {
            <p class="fate" [class.safe]="isSafe(mine)" role="status">{{ fateOf(mine) }}</p>
          }
          <p class="quiet">This page shows it as it comes, and the same link later.</p>
          <button pButton type="button" class="p-button-outlined" (click)="again()">Hand in more</button>
        </main>
      }
      @default {
        <main
          [class.over]="over()"
          (dragover)="$event.preventDefault(); over.set(true)"
          (dragleave)="over.set(false)"
          (drop)="drop($event)"
        >
          <h1>Hand in</h1>
          @if (store.earlier().length) {
            <section aria-label="Handed in before">
              @for (one of store.earlier(); track one.id) {
                <p class="fate" [class.safe]="isSafe(one)">
                  <b>{{ one.name }}</b> {{ fateOf(one) }}
                </p>
              }
            </section>
          }
          <ol>
            <li [class.done]="store.knowsWho()">
              <span class="label" id="who-label">Who took these?</span>
              <p-select
                inputId="who"
                ariaLabelledBy="who-label"
                [options]="people()"
                optionLabel="name"
                optionValue="id"
                placeholder="Choose your name"
                [filter]="people().length > 10"
                filterBy="name"
                [disabled]="busy()"
                [ngModel]="store.contributorId()"
                (ngModelChange)="store.contributorId.set($event)"
                [showClear]="!bound()?.contributorId"
              />
              @if (store.contributorId() === null && !bound()?.contributorId) {
                <input
                  pInputText
                  class="unlisted"
                  maxlength="120"
                  placeholder="Not in the list? Write your name"
                  aria-label="Your name, if the list does not have it"
                  [disabled]="busy()"
                  [ngModel]="store.saysName()"
                  (ngModelChange)="store.saysName.set($event)"
                />
              }
            </li>
            <li [class.done]="store.assignmentId() !== null">
              <span class="label" id="what-label">What are they from?</span>
              <p-select
                inputId="what"
                ariaLabelledBy="what-label"
                [options]="assignments()"
                optionLabel="title"
                optionValue="id"
                placeholder="Choose what it was, or leave it open"
                [showClear]="!bound()?.assignment"
                [filter]="assignments().length > 10"
                filterBy="title"
                [disabled]="busy()"
                [ngModel]="store.assignmentId()"
                (ngModelChange)="store.assignmentId.set($event)"
              />
            </li>
            <li [class.done]="store.files().length > 0">
              <span class="label">Where are your files?</span>
              <div class="pick">
                @if (canPickFolder) {
                  <button pButton type="button" [disabled]="busy()" (click)="folder.click()">Choose the card or folder</button>
                }
                <button pButton type="button" class="p-button-outlined" [disabled]="busy()" (click)="single.click()">
                  Choose single files
                </button>
                <span class="quiet">or drop it anywhere on this page{{ quota() ? '. ' + quota() : '' }}</span>
              </div>
              <input #folder type="file" webkitdirectory multiple hidden aria-label="Card or folder" (change)="picked(folder)" />
              <input #single type="file" multiple hidden aria-label="Single files" (change)="picked(single)" />
            </li>
          </ol>
          @if (store.problem()) {
            <p class="attention" role="alert">{{ store.problem() }}</p>
          }
          @if (store.waiting()) {
            <p class="attention" role="status">{{ store.waiting() }}</p>
          }
          @if (store.files().length) {
            <ts-stick class="stick" [notches]="store.notches()" />
            <p class="facts" aria-live="polite">{{ says() }}</p>
            <ul class="files">
              @for (file of shown(); track file.position) {
                <li [class]="file.state" [title]="file.path">
                  @if (file.thumbnail) {
                    <img [src]="file.thumbnail" alt="" />
                  } @else {
                    <span class="shape">{{ file.kind }}</span>
                  }
                  <span class="name">{{ file.path.slice(file.path.lastIndexOf('/') + 1) }}</span>
                  <span class="state">{{ stateWords(file.state, file.sent, file.file.size) }}</span>
                </li>
              }
            </ul>
            @if (store.files().length > shown().length) {
              <p class="quiet">and {{ store.files().length - shown().length }} more</p>
            }
          }
        </main>
        <footer>
          @switch (store.step()) {
            @case ('send') {
              <span class="progress"><i [style.width.%]="share() * 100"></i></span>
              <button pButton type="button" class="p-button-outlined" (click)="store.pause()">Pause</button>
            }
            @case ('paused') {
              <button pButton type="button" class="main" (click)="store.start()">Go on</button>
              @if (store.counts().arrived) {
                <button pButton type="button" class="p-button-outlined" (click)="store.finish(true)">
                  Hand in the {{ store.counts().arrived }} that have arrived
                </button>
              }
            }
            @default {
              <button pButton type="button" class="main" [disabled]="!store.ready()" (click)="store.start()">
                Hand in {{ store.counts().toSend || '' }}
              </button>
              <span class="quiet">{{ missing() }}</span>
            }
          }
        </footer>
      }
    }
  `,
  styleUrl: './hand-in-page.css',
  host: { '(window:beforeunload)': 'stay($event)', '(window:hashchange)': 'another()' },
})
export class HandInPage {
  protected readonly store = inject(HandInStore);
  private readonly service = inject(HandInService);
  private readonly sessions = inject(SessionService);
  private readonly router = inject(Router);
  private readonly confirmation = inject(ConfirmationService);

  protected readonly over = signal(false);
  protected readonly canPickFolder = 'webkitdirectory' in document.createElement('input');
  protected readonly mark = Array.from({ length: 6 }, () => ({ weight: 1, card: 'cut' as const, copies: ['cut' as const] }));

  protected readonly people = computed(() => [...(this.store.choices()?.contributors ?? [])]);
  protected readonly bound = computed(() => this.store.choices()?.bound);
  protected readonly assignments = computed(() => {
    const bound = this.bound()?.assignment;
    return bound ? [bound] : [...(this.store.choices()?.assignments ?? [])];
  });
  /** How much may still be handed in by this link; empty: as much as fits. */
  protected readonly quota = computed(() => {
    const bound = this.bound();
    if (!bound) return '';
    const left = [
      bound.quotaBytes === null ? '' : formatBytes(Math.max(0, bound.quotaBytes - bound.bytes)),
      bound.quotaFiles === null ? '' : `${Math.max(0, bound.quotaFiles - bound.files)} files`,
    ].filter(Boolean);
    return left.length ? `${left.join(' and ')} may still be handed in by this link.` : '';
  });
  protected readonly busy = computed(() => this.store.step() === 'send');
  protected readonly until = computed(() => {
    const choices = this.store.choices();
    if (!choices?.until) return null;
    const format = new Intl.DateTimeFormat('en-GB', {
      weekday: 'long',
      hour: '2-digit',
      minute: '2-digit',
      timeZone: choices.zone,
    });
    return format.format(new Date(choices.until));
  });
  /** In time order, what is on its way first. */
  protected readonly shown = computed(() => {
    const files = [...this.store.files()].sort((a, b) =>
      a.captured < b.captured ? -1 : a.captured > b.captured ? 1 : a.position - b.position,
    );
    const moving = files.filter(({ state }) => state === 'sending');
    return [...moving, ...files.filter(({ state }) => state !== 'sending')].slice(0, SHOWN);
  });
  protected readonly share = computed(() => {
    const { bytes, sent } = this.store.counts();
    return bytes ? Math.min(1, sent / bytes) : 0;
  });

  protected readonly says = computed(() => {
    const { all, reading, filed, arrived, unreadable, toSend, bytes } = this.store.counts();
    const words = [reading ? `reading ${all - reading} of ${all}` : `${toSend} to hand in, ${formatBytes(bytes)}`];
    if (filed) words.push(`${filed} are on the drive already`);
    if (unreadable) words.push(`${unreadable} cannot be read`);
    if (this.store.step() === 'send' && this.store.goesOn())
      words.unshift(`going on: ${this.store.goesOn()} of ${all} are here already`);
    if (this.store.step() !== 'say') words.push(`${arrived} arrived and proven`);
    if (this.store.step() === 'send' && this.store.bytesPerSecond()) words.push(`${formatBytes(this.store.bytesPerSecond())}/s`);
    const left = this.store.msLeft();
    if (this.store.step() === 'send' && left !== null) words.push(`${formatDuration(left)} left`);
    return words.join(' · ');
  });

  protected readonly missing = computed(() => {
    const { all, reading, toSend } = this.store.counts();
    if (!all) return 'First choose your files';
    if (reading) return 'Reading your files';
    if (!toSend) return 'There is nothing to hand in';
    return this.store.knowsWho() ? '' : 'First say who took these';
  });

  protected readonly endWords = computed(() => {
    const { arrived, filed } = this.store.counts();
    if (!arrived) return 'Everything on it is on the drive already';
    return `${arrived} ${arrived === 1 ? 'has' : 'have'} arrived${filed ? `, ${filed} were on the drive already` : ''}`;
  });

  protected isSafe({ safe, files }: HandInView): boolean {
    return files.length > 0 && safe >= files.length;
  }

  /** May the card at home be emptied? Only when everything that was handed in is proven in every required place. */
  protected fateOf(view: HandInView): string {
    const { safe, files } = view;
    if (this.isSafe(view)) return `All ${files.length} are filed and proven in every place. Your card may be emptied now.`;
    const rest = safe ? `${safe} of ${files.length} are filed and proven so far` : 'They are not filed yet';
    return `${rest}: keep your card as it is.`;
  }

  constructor() {
    timer(0, LOOK_MS)
      .pipe(takeUntilDestroyed())
      .subscribe(() => this.store.choices() && this.store.lookAgain());
    const token = tokenHere();
    if (!token) this.check();
    else {
      // The secret leaves the address, so that nobody copies it by mistake.
      globalThis.history.replaceState(null, '', '/hand-in');
      this.open(token, false);
    }
  }

  /** Another link in the same tab: the browser stays on the page then. */
  protected another(): void {
    if (tokenHere()) this.again();
  }

  /** Somebody who is signed in with this browser is asked before a link takes the place of that. */
  private open(token: string, instead: boolean): void {
    this.service.openLink(token, instead).subscribe({
      next: () => {
        this.sessions.forget();
        this.load();
      },
      error: (error: unknown) => {
        if (needsOf(error) === 'instead') this.asks(wordsFor(error), token);
        else this.store.problem.set('This hand-in link has ended. Ask for a new one.');
      },
    });
  }

  private asks(message: string, token: string): void {
    this.confirmation.confirm({
      header: 'Open this hand-in link?',
      message,
      acceptLabel: 'Open it',
      rejectLabel: 'Stay signed in',
      accept: () => this.open(token, true),
      reject: () => void this.router.navigateByUrl('/'),
    });
  }

  protected picked(input: HTMLInputElement): void {
    if (input.files?.length) this.store.choose(fromPicker(input.files));
    input.value = '';
  }

  protected drop(event: DragEvent): void {
    event.preventDefault();
    this.over.set(false);
    if (this.busy() || !event.dataTransfer) return;
    void fromDrop(event.dataTransfer.items).then((found) => this.store.choose(found));
  }

  protected again(): void {
    globalThis.location.reload();
  }

  /** Leaving while files travel is asked about; they go on where they stopped when the same card is chosen again. */
  protected stay(event: BeforeUnloadEvent): void {
    if (this.store.step() === 'send') event.preventDefault();
  }

  protected stateWords(state: string, sent: number, size: number): string {
    if (state === 'sending') return size ? `${Math.floor((sent / size) * 100)} %` : 'sending';
    const words: Record<string, string> = {
      ...{
        reading: 'reading',
        ready: 'waits',
        filed: 'on the drive already',
        arrived: 'arrived and proven',
        unreadable: 'cannot be read',
      },
    };
    return words[state] ?? state;
  }

  private load(): void {
    this.store.load();
    this.store.lookAgain();
  }

  private check(): void {
    this.sessions.check().subscribe((yes) => {
      if (yes) this.load();
      else void this.router.navigate(['/sign-in'], { queryParams: { to: '/hand-in' } });
    });
  }
}
