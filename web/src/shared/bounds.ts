import { ChangeDetectionStrategy, Component, computed, inject, input, linkedSignal, output } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import type { AccountView, Contributor } from '@tally/contract';
import { formatBytes } from '@tally/core/logbook';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { CreditService } from '../api/credit.service';
import { PeopleService } from '../api/people.service';
import { AssignmentBox } from './assignment-box';

/** What whoever hands in is bound to. Null: to nothing. */
export interface BoundTo {
  readonly contributorId: number | null;
  readonly ofKind: string | null;
  readonly assignmentId: number | null;
  readonly quotaBytes: number | null;
  readonly quotaFiles: number | null;
}

export const UNBOUND: BoundTo = { contributorId: null, ofKind: null, assignmentId: null, quotaBytes: null, quotaFiles: null };

type Bounds = Pick<AccountView, 'contributor' | 'ofKind' | 'assignment' | 'quotaBytes' | 'quotaFiles'>;

/** `Ines Barrow, for Reed planting day, up to 2 GB` */
export function boundsInWords({ contributor, ofKind, assignment, quotaBytes, quotaFiles }: Bounds): string {
  const most = [quotaBytes === null ? '' : formatBytes(quotaBytes), quotaFiles === null ? '' : `${quotaFiles} files`].filter(
    Boolean,
  );
  const parts = [
    contributor?.name ?? (ofKind ? `any ${ofKind}` : 'anybody'),
    assignment ? `for ${assignment.name}` : '',
    most.length ? `up to ${most.join(', ')}` : '',
  ];
  return parts.filter(Boolean).join(', ');
}

const GB = 1_000_000_000;

/** Fields for what whoever hands in is bound to. */
@Component({
  selector: 'ts-bounds',
  imports: [FormsModule, InputTextModule, SelectModule, AssignmentBox],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="two">
      <label class="field" for="bound-who"
        ><span>Who hands in</span>
        <p-select
          inputId="bound-who"
          ariaLabel="Who hands in"
          [options]="whom()"
          optionLabel="words"
          optionValue="value"
          [filter]="true"
          filterBy="words"
          appendTo="body"
          fluid
          [ngModel]="who()"
          (ngModelChange)="saidWho($event)"
        />
      </label>
      <label class="field" for="bound-what"
        ><span>For which assignment</span>
        <ts-assignment-box inputId="bound-what" placeholder="any" (choice)="said({ assignmentId: $event })" />
        @if (assignmentName() && to().assignmentId) {
          <small class="quiet">now: {{ assignmentName() }}</small>
        }
      </label>
    </div>
    <div class="two">
      <label class="field"
        ><span>At most, in GB (empty: as much as fits)</span>
        <input
          pInputText
          inputmode="decimal"
          [ngModel]="gigabytes()"
          (ngModelChange)="saidBytes($event)"
          [attr.aria-invalid]="wrong().bytes"
        />
      </label>
      <label class="field"
        ><span>At most, files</span>
        <input
          pInputText
          inputmode="numeric"
          [ngModel]="to().quotaFiles ?? ''"
          (ngModelChange)="saidFiles($event)"
          [attr.aria-invalid]="wrong().files"
        />
      </label>
    </div>
  `,
  styles: `
    :host {
      display: grid;
      gap: 12px;
    }
    .two {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 12px;
      align-items: start;
    }
    input {
      width: 100%;
    }
  `,
})
export class BoundsFields {
  readonly given = input<BoundTo>(UNBOUND);
  readonly assignmentName = input('');
  readonly changed = output<BoundTo>();
  protected readonly to = linkedSignal(() => this.given());
  protected readonly wrong = linkedSignal(() => ({ bytes: false, files: this.given().quotaFiles === -1 }));
  protected readonly gigabytes = computed(() => {
    const bytes = this.given().quotaBytes;
    return bytes === null ? '' : String(bytes / GB);
  });

  private readonly contributors = toSignal(inject(PeopleService).contributors, { initialValue: [] as Contributor[] });
  private readonly house = toSignal(inject(CreditService).house);
  protected readonly whom = computed(() => [
    { value: '', words: 'anybody' },
    ...(this.house()?.kinds ?? []).map((kind) => ({ value: `kind ${kind}`, words: `any ${kind}` })),
    ...this.contributors().map(({ id, name }) => ({ value: String(id), words: name })),
  ]);
  protected readonly who = computed(() => {
    const { contributorId, ofKind } = this.to();
    return contributorId !== null ? String(contributorId) : ofKind ? `kind ${ofKind}` : '';
  });

  protected saidWho(value: string): void {
    const ofKind = value.startsWith('kind ') ? value.slice(5) : null;
    this.said({ ofKind, contributorId: value && ofKind === null ? Number(value) : null });
  }

  protected saidBytes(typed: string): void {
    const gigabytes = Number(typed.replace(',', '.'));
    const isRight = typed.trim() === '' || (gigabytes > 0 && gigabytes < 1_000_000);
    this.wrong.update((wrong) => ({ ...wrong, bytes: !isRight }));
    if (isRight) this.said({ quotaBytes: typed.trim() === '' ? null : Math.round(gigabytes * GB) });
  }

  protected saidFiles(typed: string): void {
    const isRight = /^\d{0,6}$/.test(typed.trim()) && typed.trim() !== '0';
    this.wrong.update((wrong) => ({ ...wrong, files: !isRight }));
    if (isRight) this.said({ quotaFiles: typed.trim() === '' ? null : Number(typed) });
  }

  protected said(change: Partial<BoundTo>): void {
    this.to.update((to) => ({ ...to, ...change }));
    this.changed.emit(this.to());
  }
}
