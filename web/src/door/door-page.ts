import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { SelectButtonModule } from 'primeng/selectbutton';
import { SessionService } from '../api/session.service';
import { AccountsList } from './accounts-list';
import { AuditList } from './audit-list';
import { LinksList } from './links-list';

const VIEWS = [
  { view: 'links', words: 'Hand-in links', deed: 'invite' },
  { view: 'accounts', words: 'Who signs in', deed: 'accounts' },
  { view: 'audit', words: 'What was recorded', deed: 'audit' },
] as const;
type ViewName = (typeof VIEWS)[number]['view'];

/** Who comes in here, by what, and what was recorded of it. */
@Component({
  selector: 'ts-door',
  imports: [FormsModule, SelectButtonModule, AccountsList, AuditList, LinksList],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Door</h1>
        @if (views().length > 1) {
          <p-selectbutton
            ariaLabel="What is shown"
            [options]="views()"
            optionLabel="words"
            optionValue="view"
            [allowEmpty]="false"
            [ngModel]="shown()"
            (ngModelChange)="go($event)"
          />
        }
      </header>
      @switch (shown()) {
        @case ('accounts') {
          <ts-accounts-list />
        }
        @case ('audit') {
          <ts-audit-list />
        }
        @case ('links') {
          <ts-links-list />
        }
      }
    </div>
  `,
})
export class DoorPage {
  private readonly sessions = inject(SessionService);
  private readonly router = inject(Router);
  /** Of the address. */
  readonly view = input<string>();
  protected readonly views = computed(() => VIEWS.filter(({ deed }) => this.sessions.may(deed)));
  protected readonly shown = computed<ViewName | undefined>(
    () => (this.views().find(({ view }) => view === this.view()) ?? this.views()[0])?.view,
  );

  protected go(view: ViewName): void {
    void this.router.navigate(['/door'], { queryParams: { view } });
  }
}
