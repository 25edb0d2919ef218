import { ChangeDetectionStrategy, Component, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { wordsFor } from '../api/problem';
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
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="busy()">Sign in</button>
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

  protected name = '';
  protected password = '';
  protected readonly problem = signal('');
  protected readonly busy = signal(false);

  protected signIn(): void {
    if (!this.name.trim() || !this.password) return this.problem.set('Please give your name and your password.');
    this.busy.set(true);
    this.sessions.signIn({ name: this.name, password: this.password }).subscribe({
      next: () =>
        void this.router.navigateByUrl(this.to()?.startsWith('/') && !this.to()?.startsWith('//') ? this.to()! : '/desk'),
      error: (error: unknown) => {
        this.problem.set(wordsFor(error));
        this.busy.set(false);
      },
    });
  }
}
