import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import type { RecoveryCodes, SecondFactorOffer, SessionView } from '@tally/contract';
import { PASSWORD_LENGTHS } from '@tally/core/rights';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { DoorService } from '../api/door.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { HouseTimePipe } from '../shared/amounts';

/** What is one's own: the password, the second factor, the browsers one is signed in with. */
@Component({
  selector: 'ts-own',
  imports: [FormsModule, ButtonModule, InputTextModule, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <h1>{{ session()?.person?.name }}</h1>
      <p class="lead">
        {{ session()?.person?.role }} at {{ session()?.house
        }}{{ session() ? '; this session ends ' + (session()!.endsAt | houseTime: 'long') + ' at the latest' : '' }}.
      </p>
      @if (session()?.must; as must) {
        <p class="attention" role="alert">First of all, {{ must }}. Everything else comes after it.</p>
      }
      @if (session()?.hasPassword || session()?.must === 'choose a password') {
        <section aria-labelledby="own-password">
          <h2 id="own-password">Password</h2>
          <form (ngSubmit)="change()">
            @if (session()?.must !== 'choose a password') {
              <label class="field"
                ><span>The password you have now</span
                ><input pInputText type="password" name="now" autocomplete="current-password" [(ngModel)]="now"
              /></label>
            }
            <label class="field"
              ><span>{{ session()?.must ? '' : 'Another one: ' }}{{ least }} characters or more, a few words will do</span
              ><input
                pInputText
                type="password"
                name="wish"
                autocomplete="new-password"
                aria-label="New password"
                [(ngModel)]="wish"
            /></label>
            <label class="field"
              ><span>Once more</span
              ><input pInputText type="password" name="again" autocomplete="new-password" [(ngModel)]="again"
            /></label>
            @if (problem()) {
              <p class="attention" role="alert">{{ problem() }}</p>
            }
            <button pButton type="submit">Change the password</button>
          </form>
        </section>
        @if (session()?.must !== 'choose a password') {
          <section aria-labelledby="own-second">
            <h2 id="own-second">Second factor</h2>
            @if (codes(); as list) {
              <p>
                From now on a code of your app is asked for. Where the app is lost, each of these signs you in once. They are
                shown only now: write them down.
              </p>
              <ul class="codes mono">
                @for (code of list.codes; track code) {
                  <li>{{ code }}</li>
                }
              </ul>
              <button pButton type="button" (click)="codes.set(null)">I have written them down</button>
            } @else if (offer(); as given) {
              <p>Scan this with an app for one-time codes, or type the secret into it; then give the code that it shows.</p>
              <img [src]="given.picture" alt="The secret as a square code to scan" width="196" height="196" />
              <p class="mono secret">{{ given.secret }}</p>
              <form (ngSubmit)="confirm()">
                <label class="field"
                  ><span>Code of the app</span
                  ><input
                    pInputText
                    name="code"
                    inputmode="numeric"
                    autocomplete="one-time-code"
                    maxlength="10"
                    [(ngModel)]="code"
                /></label>
                @if (secondProblem()) {
                  <p class="attention" role="alert">{{ secondProblem() }}</p>
                }
                <button pButton type="submit">Ask for it from now on</button>
              </form>
            } @else if (session()?.secondFactor) {
              <p>A code of your app is asked for when you sign in. To take that away, give one now, or a recovery code.</p>
              <form (ngSubmit)="remove()">
                <label class="field"
                  ><span>Code</span><input pInputText name="code" autocomplete="one-time-code" maxlength="40" [(ngModel)]="code"
                /></label>
                @if (secondProblem()) {
                  <p class="attention" role="alert">{{ secondProblem() }}</p>
                }
                <button pButton type="submit" class="p-button-outlined">Take it away</button>
              </form>
            } @else {
              <p>Whoever has your password could sign in as you. With a second factor they would need your telephone, too.</p>
              <button pButton type="button" class="p-button-outlined" (click)="set()">Set up a second factor</button>
            }
          </section>
        }
      }
      @if (!session()?.must) {
        <section aria-labelledby="own-sessions">
          <h2 id="own-sessions">Where you are signed in</h2>
          <ul class="sessions">
            @for (one of sessions(); track one.id) {
              <li>
                <span
                  ><b>{{ browser(one.agent) }}</b> from {{ one.address || 'here' }}{{ one.here ? ', this one' : '' }}
                  <span class="quiet"
                    >since {{ one.begunAt | houseTime: 'short' }}, used last {{ one.usedAt | houseTime: 'short' }}</span
                  ></span
                >
                @if (!one.here) {
                  <button type="button" class="plain" (click)="end(one.id)">End it</button>
                }
              </li>
            }
          </ul>
          @if (sessions().length > 1) {
            <button pButton type="button" class="p-button-outlined" (click)="end(null)">End all but this one</button>
          }
        </section>
      }
    </div>
  `,
  styles: `
    .page {
      max-width: 720px;
    }
    .lead {
      margin: 6px 0 12px;
      color: var(--quiet);
    }
    section {
      display: grid;
      gap: 10px;
      justify-items: start;
      margin-top: 24px;
      padding-top: 16px;
      border-top: 1px solid var(--line);
    }
    form {
      display: grid;
      gap: 10px;
      width: min(360px, 100%);
      justify-items: start;
    }
    .field,
    input {
      width: 100%;
    }
    img {
      padding: 12px;
      background: #fff;
      border: 1px solid var(--line);
      image-rendering: pixelated;
    }
    .secret {
      overflow-wrap: anywhere;
    }
    .codes {
      columns: 2;
      column-gap: 40px;
    }
    .sessions {
      width: 100%;
    }
    .sessions li {
      display: flex;
      justify-content: space-between;
      gap: 16px;
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
    }
    .sessions .quiet {
      display: block;
    }
  `,
})
export class OwnPage {
  private readonly service = inject(SessionService);
  private readonly door = inject(DoorService);
  private readonly router = inject(Router);
  private readonly messages = inject(MessageService);
  protected readonly session = this.service.session;
  protected readonly least = PASSWORD_LENGTHS.least;
  protected readonly sessions = signal<readonly SessionView[]>([]);
  protected readonly offer = signal<SecondFactorOffer | null>(null);
  protected readonly codes = signal<RecoveryCodes | null>(null);
  protected readonly problem = signal('');
  protected readonly secondProblem = signal('');
  private readonly free = computed(() => this.session()?.must === null);
  protected now = '';
  protected wish = '';
  protected again = '';
  protected code = '';

  constructor() {
    this.load();
  }

  private load(): void {
    if (this.free()) this.door.ownSessions().subscribe((all) => this.sessions.set(all));
  }

  protected change(): void {
    if (this.wish !== this.again) return this.problem.set('The two are not the same: type the new one twice.');
    const wasFirst = this.session()?.must === 'choose a password';
    this.service.changePassword({ wish: this.wish, ...(wasFirst ? {} : { now: this.now }) }).subscribe({
      next: ({ must }) => {
        [this.now, this.wish, this.again] = ['', '', ''];
        this.problem.set('');
        this.messages.add({ severity: 'success', summary: 'The password is changed.', life: 4000 });
        if (wasFirst && !must) void this.router.navigateByUrl('/');
        else this.load();
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected set(): void {
    this.door.offerSecond().subscribe({
      next: (offer) => this.offer.set(offer),
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 6000 }),
    });
  }

  protected confirm(): void {
    this.door.confirmSecond(this.code).subscribe({
      next: (codes) => {
        this.codes.set(codes);
        this.offer.set(null);
        this.done();
      },
      error: (error: unknown) => this.secondProblem.set(wordsFor(error)),
    });
  }

  protected remove(): void {
    this.door.removeSecond(this.code).subscribe({
      next: () => this.done(),
      error: (error: unknown) => this.secondProblem.set(wordsFor(error)),
    });
  }

  private done(): void {
    this.code = '';
    this.secondProblem.set('');
    this.service.refresh();
  }

  protected end(id: string | null): void {
    this.door.endOwn(id).subscribe(() => this.load());
  }

  /** What a browser says of itself is long: its last word with a version names it best. */
  protected browser(agent: string): string {
    const system = /Windows|Mac OS X|Android|iPhone|iPad|CrOS|Linux/.exec(agent)?.[0] ?? '';
    const name = /(Edg|Firefox|Chrome|Safari)\/(\d+)/.exec(agent)?.[1] ?? '';
    return [name === 'Edg' ? 'Edge' : name, system].filter(Boolean).join(', ') || 'A browser';
  }
}
