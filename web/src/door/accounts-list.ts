import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import type { AccountView, CodeView } from '@tally/contract';
import { ConfirmationService, MessageService, type MenuItem } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { MenuModule } from 'primeng/menu';
import type { Observable } from 'rxjs';
import { DoorService } from '../api/door.service';
import { wordsFor } from '../api/problem';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { AccountDialog, ROLE_WORDS } from './account-dialog';
import { boundsInWords } from '../shared/bounds';

/** People who sign in: what each may do, how they sign in, and since when nobody saw them. */
@Component({
  selector: 'ts-accounts-list',
  imports: [ButtonModule, MenuModule, AccountDialog, CountPipe, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar"><button pButton type="button" (click)="add()">Somebody new</button></div>
    <table>
      <thead>
        <tr>
          <th scope="col" style="width: 22%">Name</th>
          <th scope="col">May do</th>
          <th scope="col" style="width: 24%">Signs in with</th>
          <th scope="col" style="width: 19%">Signed in now</th>
          <th scope="col" style="width: 56px"><span class="visually-hidden">More</span></th>
        </tr>
      </thead>
      <tbody>
        @for (one of accounts(); track one.id) {
          <tr [class.over]="one.retired">
            <td>
              <button type="button" class="plain" (click)="change(one)">{{ one.name }}</button>
              @if (one.retired) {
                <span class="quiet">retired</span>
              }
            </td>
            <td>
              <b>{{ one.role }}</b>
              <span class="quiet">{{ words(one) }}</span>
            </td>
            <td>
              {{ signsInWith(one) }}
              @if (one.codeUntil) {
                <span class="quiet">code good until {{ one.codeUntil | houseTime: 'short' }}</span>
              }
            </td>
            <td>
              @if (one.sessions) {
                {{ one.sessions | count: 'browser' }}
                <span class="quiet">last {{ one.lastSeen! | houseTime: 'short' }}</span>
              } @else {
                <span class="quiet">no</span>
              }
            </td>
            <td class="acts">
              <button
                pButton
                type="button"
                class="p-button-text"
                [attr.aria-label]="'More for ' + one.name"
                (click)="ask(one); menu.toggle($event)"
              >
                <i class="pi pi-ellipsis-h" aria-hidden="true"></i>
              </button>
            </td>
          </tr>
        } @empty {
          <tr>
            <td colspan="5" class="empty">{{ problem() || 'Looking who signs in …' }}</td>
          </tr>
        }
      </tbody>
    </table>
    <p-menu #menu [popup]="true" [model]="acts()" appendTo="body" />
    <ts-account-dialog [open]="open()" [account]="account()" [given]="code()" (closed)="close()" />
  `,
  styleUrl: './door-table.css',
})
export class AccountsList {
  private readonly door = inject(DoorService);
  private readonly messages = inject(MessageService);
  private readonly confirmation = inject(ConfirmationService);
  protected readonly accounts = signal<readonly AccountView[]>([]);
  protected readonly problem = signal('');
  protected readonly open = signal(false);
  protected readonly account = signal<AccountView | null>(null);
  protected readonly code = signal<CodeView | null>(null);
  protected readonly acts = signal<MenuItem[]>([]);

  constructor() {
    this.load();
  }

  private load(): void {
    this.door.accounts().subscribe({
      next: (accounts) => this.accounts.set(accounts),
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected words(one: AccountView): string {
    const { role } = one;
    if (role === 'hand-in') return boundsInWords(one);
    return role === 'looker' && one.seesPersons ? `${ROLE_WORDS.looker}, sees who is pictured` : ROLE_WORDS[role];
  }

  protected signsInWith({ hasPassword, secondFactor, byDirectory }: AccountView): string {
    const ways = [
      hasPassword ? 'a password' : '',
      secondFactor ? 'a second factor' : '',
      byDirectory ? 'the house’s directory' : '',
    ].filter(Boolean);
    return ways.join(' and ') || 'a code, the first time';
  }

  protected add(): void {
    this.account.set(null);
    this.open.set(true);
  }

  protected change(one: AccountView): void {
    this.account.set(one);
    this.open.set(true);
  }

  protected ask(one: AccountView): void {
    this.acts.set([
      ...(one.retired ? [] : [{ label: 'Give a new code…', command: () => this.giveCode(one) }]),
      ...(one.sessions ? [{ label: 'End the sessions', command: () => this.does(this.door.endSessions(one.id)) }] : []),
      ...(one.secondFactor
        ? [{ label: 'Take the second factor away', command: () => this.does(this.door.change(one.id, { secondFactor: false })) }]
        : []),
      one.retired
        ? { label: 'Put back', command: () => this.does(this.door.change(one.id, { retired: false })) }
        : { label: 'Retire…', command: () => this.retire(one) },
    ]);
  }

  private giveCode(one: AccountView): void {
    this.confirmation.confirm({
      header: `A new code for ${one.name}?`,
      message: 'The password of now is good for nothing any more, and every session ends.',
      acceptLabel: 'Give a code',
      rejectLabel: 'Leave it',
      accept: () =>
        this.door.code(one.id).subscribe({
          next: (code) => {
            this.account.set(one);
            this.code.set(code);
            this.open.set(true);
          },
          error: this.failed,
        }),
    });
  }

  private retire(one: AccountView): void {
    this.confirmation.confirm({
      header: `Retire ${one.name}?`,
      message: `${one.name} signs in no more, and every session ends at once. What was done stays in the log.`,
      acceptLabel: 'Retire',
      rejectLabel: 'Keep',
      accept: () => this.does(this.door.change(one.id, { retired: true })),
    });
  }

  private does(what: Observable<unknown>): void {
    what.subscribe({ next: () => this.load(), error: this.failed });
  }

  private readonly failed = (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 6000 });

  protected close(): void {
    this.open.set(false);
    this.code.set(null);
    this.load();
  }
}
