import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { AccountView, CodeView, Role } from '@tally/contract';
import { ROLES } from '@tally/core/rights';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { ToggleSwitchModule } from 'primeng/toggleswitch';
import { DoorService } from '../api/door.service';
import { wordsFor } from '../api/problem';
import { HouseTimePipe } from '../shared/amounts';
import { OnceShown } from '../shared/once-shown';
import { BoundsFields, UNBOUND, type BoundTo } from '../shared/bounds';

/** What each role is for, in a line. */
export const ROLE_WORDS: Readonly<Record<Role, string>> = {
  administrator: 'people, house, places and rules, and everything of the desk',
  coordinator: 'everything of the desk, clearing and mends',
  helper: 'reads, files and hands over cards; clears nothing',
  looker: 'looks at shelf and logbook',
  'hand-in': 'hands in, and does nothing else',
};

/** Adds somebody who signs in, or says something of them anew. */
@Component({
  selector: 'ts-account-dialog',
  imports: [
    ...[FormsModule, ButtonModule, DialogModule, InputTextModule, SelectModule, ToggleSwitchModule],
    ...[BoundsFields, OnceShown, HouseTimePipe],
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="header()"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="open()"
      (visibleChange)="close()"
      [style]="{ width: '620px' }"
    >
      @if (code(); as given) {
        <p class="said">
          With this code instead of a password, {{ name() }} signs in and chooses one. It is good until
          {{ given.until | houseTime: 'long' }}.
        </p>
        <ts-once-shown label="Code to sign in with" [secret]="given.code" />
      } @else {
        <form (ngSubmit)="save()">
          <label class="field"
            ><span>Name to sign in with</span
            ><input
              pInputText
              name="name"
              maxlength="80"
              autocomplete="off"
              [ngModel]="name()"
              (ngModelChange)="name.set($event)"
          /></label>
          <label class="field" for="account-role"
            ><span>May do</span>
            <p-select
              inputId="account-role"
              ariaLabel="Role"
              name="role"
              [options]="roles"
              optionLabel="name"
              optionValue="name"
              appendTo="body"
              fluid
              [ngModel]="role()"
              (ngModelChange)="role.set($event)"
            >
              <ng-template #item let-one
                ><span
                  ><b>{{ one.name }}</b> <span class="quiet">{{ one.words }}</span></span
                ></ng-template
              >
            </p-select>
            <small class="quiet">{{ words() }}</small>
          </label>
          @if (role() === 'looker') {
            <label class="switch" for="account-persons"
              ><p-toggleswitch
                inputId="account-persons"
                name="persons"
                ariaLabel="Sees who is pictured"
                [ngModel]="seesPersons()"
                (ngModelChange)="seesPersons.set($event)"
              />
              Sees who is pictured, names of minors, camera serials and positions, too</label
            >
          }
          @if (role() === 'hand-in') {
            <ts-bounds [given]="before()" [assignmentName]="account()?.assignment?.name ?? ''" (changed)="bounds.set($event)" />
          }
          @if (problem()) {
            <p class="attention" role="alert">{{ problem() }}</p>
          }
          <button pButton type="submit" [disabled]="!name().trim()">{{ account() ? 'Save' : 'Add, and give a code' }}</button>
        </form>
      }
    </p-dialog>
  `,
  styles: `
    form {
      display: grid;
      gap: 14px;
    }
    .switch {
      display: flex;
      gap: 10px;
      align-items: center;
    }
    .said {
      margin-bottom: 12px;
    }
    input {
      width: 100%;
    }
  `,
})
export class AccountDialog {
  private readonly door = inject(DoorService);
  readonly open = input.required<boolean>();
  /** Null: somebody new. */
  readonly account = input<AccountView | null>(null);
  /** A code that was given elsewhere is shown here. */
  readonly given = input<CodeView | null>(null);
  readonly closed = output();

  protected readonly roles = ROLES.map((name) => ({ name, words: ROLE_WORDS[name] }));
  protected readonly code = linkedSignal(() => this.given());
  protected readonly problem = signal('');
  protected readonly name = linkedSignal(() => this.account()?.name ?? '');
  protected readonly role = linkedSignal<Role>(() => this.account()?.role ?? 'helper');
  protected readonly seesPersons = linkedSignal(() => this.account()?.seesPersons ?? false);
  protected readonly before = computed<BoundTo>(() => {
    const account = this.account();
    if (!account) return UNBOUND;
    const { contributor, assignment, ofKind, quotaBytes, quotaFiles } = account;
    return { contributorId: contributor?.id ?? null, assignmentId: assignment?.id ?? null, ofKind, quotaBytes, quotaFiles };
  });
  protected readonly bounds = linkedSignal(() => this.before());
  protected readonly words = computed(() => ROLE_WORDS[this.role()]);
  protected readonly header = computed(() =>
    this.code() ? `A code for ${this.name()}` : this.account() ? this.account()!.name : 'Somebody new who signs in',
  );

  protected save(): void {
    const bounds = this.role() === 'hand-in' ? this.bounds() : UNBOUND;
    const said = { name: this.name(), role: this.role(), seesPersons: this.role() === 'looker' && this.seesPersons(), ...bounds };
    this.problem.set('');
    const fail = (error: unknown) => this.problem.set(wordsFor(error));
    const account = this.account();
    if (account) this.door.change(account.id, said).subscribe({ next: () => this.close(), error: fail });
    else this.door.add(said).subscribe({ next: (code) => this.code.set(code), error: fail });
  }

  protected close(): void {
    this.problem.set('');
    this.code.set(null);
    if (!this.account()) this.name.set('');
    this.closed.emit();
  }
}
