import { ChangeDetectionStrategy, Component, type ElementRef, inject, input, signal, viewChild } from '@angular/core';
import { HttpClient } from '@angular/common/http';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { DirectoryView } from '@tally/contract';
import { catchError, map, of } from 'rxjs';
import { Router } from '@angular/router';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { needsOf, wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { StickMark } from '../stick/stick-mark';

@Component({
  selector: 'ts-sign-in',
  imports: [FormsModule, ButtonModule, InputTextModule, StickMark],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="signIn()">
      <ts-stick-mark class="mark" />
      <h1>Tally Stick</h1>
      <p class="quiet">A card may be cleared only when the halves tally.</p>
      <label class="field"
        ><span>Name</span><input pInputText name="name" autocomplete="username" required [(ngModel)]="name"
      /></label>
      <label class="field"
        ><span>Password</span
        ><input pInputText type="password" name="password" autocomplete="current-password" required [(ngModel)]="password"
      /></label>
      @if (asksCode()) {
        <label class="field"
          ><span>Code of your app, or a recovery code</span
          ><input pInputText #codeBox name="code" autocomplete="one-time-code" maxlength="40" [(ngModel)]="code"
        /></label>
      }
      @if (problem() || said(); as words) {
        <p class="attention" role="alert">{{ words }}</p>
      }
      <button pButton type="submit" [disabled]="busy()">Sign in</button>
      @if (directory(); as name) {
        <a pButton class="p-button-outlined" href="/api/session/directory/begin">Sign in with {{ name }}</a>
      }
    </form>
  `,
  styles: `
    :host {
      display: grid;
      place-items: center;
      min-height: 100vh;
      padding: 16px;
    }
    form {
      display: grid;
      gap: 16px;
      width: min(360px, 100%);
    }
    .mark {
      width: 96px;
    }
    button {
      justify-content: center;
    }
  `,
})
export class SignInPage {
  private readonly sessions = inject(SessionService);
  private readonly router = inject(Router);

  /** Where to go afterwards. */
  readonly to = input<string>();

  /** What the house's directory said, when somebody came back from it without being let in. */
  readonly said = input<string>();
  protected readonly directory = toSignal(
    inject(HttpClient)
      .get<DirectoryView>('/api/session/directory')
      .pipe(
        map(({ name }) => name),
        catchError(() => of(null)),
      ),
    { initialValue: null },
  );

  protected name = '';
  protected password = '';
  protected code = '';
  protected readonly asksCode = signal(false);
  private readonly codeBox = viewChild<ElementRef<HTMLInputElement>>('codeBox');
  protected readonly problem = signal('');
  protected readonly busy = signal(false);

  protected signIn(): void {
    if (!this.name.trim() || !this.password) return this.problem.set('Please give your name and your password.');
    this.busy.set(true);
    const code = this.asksCode() && this.code.trim() ? { code: this.code.trim() } : {};
    this.sessions.signIn({ name: this.name, password: this.password, ...code }).subscribe({
      next: ({ must }) => {
        const to = this.to()?.startsWith('/') && !this.to()?.startsWith('//') ? this.to()! : '/';
        void this.router.navigateByUrl(must ? '/you' : to);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        const isAsked = needsOf(error) === 'second factor';
        // Asked for the first time, it is no fault.
        this.problem.set(isAsked && !this.asksCode() ? '' : wordsFor(error));
        if (!isAsked || this.asksCode()) return;
        this.asksCode.set(true);
        setTimeout(() => this.codeBox()?.nativeElement.focus());
      },
    });
  }
}
