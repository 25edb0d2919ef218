import { ChangeDetectionStrategy, Component, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { AgreementView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { CreditService } from '../api/credit.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { DayBox } from '../shared/day-box';

/** What was agreed with a contributor, until when, with the paper's scan. */
@Component({
  selector: 'ts-agreements',
  imports: [FormsModule, ButtonModule, InputTextModule, DayBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <h2>Agreed</h2>
    @for (one of agreements(); track one.id) {
      <p>
        {{ one.what }}
        <span [class.trouble]="ended(one)">{{ until(one) }}</span>
        @if (one.scanned) {
          <a [href]="'/api/agreements/' + one.id + '/scan'" target="_blank" rel="noopener">scan</a>
        }
        <label class="scan"
          >{{ one.scanned ? 'another scan' : 'add the scan'
          }}<input type="file" class="visually-hidden" accept="application/pdf,image/jpeg,image/png" (change)="keep(one, $event)"
        /></label>
        <button type="button" class="plain" (click)="remove(one)">take out</button>
      </p>
    } @empty {
      <p class="quiet">Nothing was agreed in writing.</p>
    }
    @if (adding()) {
      <form (ngSubmit)="add()">
        <input
          pInputText
          name="what"
          placeholder="What was agreed"
          aria-label="What was agreed"
          maxlength="200"
          [(ngModel)]="what"
        />
        <ts-day-box label="Signed on" placeholder="signed on" [day]="signedOn" (dayChange)="signedOn = $event" />
        <ts-day-box label="Until" placeholder="until, if it ends" [day]="untilDay" (dayChange)="untilDay = $event" />
        <button pButton type="submit" [disabled]="!what.trim()">Keep it</button>
      </form>
    } @else {
      <button type="button" class="plain" (click)="adding.set(true)">Add an agreement</button>
    }
    @if (problem()) {
      <p class="attention" role="alert">{{ problem() }}</p>
    }
  `,
  styleUrl: './record-of.css',
  styles: `
    :host {
      display: block;
      margin: 20px 0;
    }
    h2 {
      margin: 0 0 4px;
      font-size: 15px;
    }
    p {
      padding: 4px 0;
      border-bottom: 1px solid var(--line);
    }
    .plain,
    .scan {
      min-height: 24px;
      padding: 0 2px;
      border: 0;
      background: none;
      color: var(--quiet);
      font: inherit;
      text-decoration: underline;
      cursor: pointer;
    }
    form {
      display: grid;
      gap: 8px;
      padding-top: 8px;
    }
  `,
})
export class Agreements {
  readonly contributorId = input.required<number>();
  readonly agreements = input.required<readonly AgreementView[]>();
  private readonly service = inject(CreditService);
  private readonly today = inject(SessionService).today();
  protected readonly adding = signal(false);
  protected readonly problem = signal('');
  protected what = '';
  protected signedOn = '';
  protected untilDay = '';

  protected ended({ until }: AgreementView): boolean {
    return until !== null && until < this.today;
  }

  protected until(one: AgreementView): string {
    if (one.until === null) return one.signedOn ? `signed ${one.signedOn}` : '';
    return this.ended(one) ? `ended ${one.until}` : `until ${one.until}`;
  }

  protected add(): void {
    const said = { what: this.what, signedOn: this.signedOn || null, until: this.untilDay || null };
    this.service.addAgreement(this.contributorId(), said).subscribe({
      next: () => {
        this.adding.set(false);
        [this.what, this.signedOn, this.untilDay] = ['', '', ''];
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected keep(one: AgreementView, event: Event): void {
    const [file] = (event.target as HTMLInputElement).files ?? [];
    if (file) this.service.keepScan(one.id, file).subscribe({ error: (error: unknown) => this.problem.set(wordsFor(error)) });
  }

  protected remove(one: AgreementView): void {
    this.service.removeAgreement(one.id).subscribe({ error: (error: unknown) => this.problem.set(wordsFor(error)) });
  }
}
