import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal } from '@angular/core';
import { houseDay } from '@tally/core/capture';
import { SessionService } from '../api/session.service';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { profileOf } from '@tally/core/footage';
import { FOOTAGE_ROLES, type Assignment, type Contributor, type FootageRole } from '@tally/contract';
import { proposeAssignments } from '@tally/core/plan';
import { AutoCompleteModule, type AutoCompleteCompleteEvent } from 'primeng/autocomplete';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { of, Subject, switchMap } from 'rxjs';
import { PeopleService } from '../api/people.service';
import { AssignmentForm } from '../shared/assignment-form';
import { CountPipe } from '../shared/amounts';
import { Acts } from '../sheet/acts';
import { IntakeStore } from './intake-store';
import { isOpen, type Tile } from '../sheet/tiles';
import { View } from '../sheet/view';

/** Says what some items were shot for, and by whom, where that differs from the slip: how one card feeds several. */
@Component({
  selector: 'ts-belong-dialog',
  imports: [FormsModule, DialogModule, InputTextModule, AutoCompleteModule, AssignmentForm, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      [header]="'Where do these belong?'"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '560px' }"
    >
      <p>
        <b>{{ open().length | count: 'item' }}</b> of this card, with their companions.
        @if (open().length < tiles().length) {
          <span class="quiet">{{ tiles().length - open().length }} are filed already and stay where they are.</span>
        }
      </p>
      <h3>Shot for</h3>
      <ul class="proposals">
        <li>
          <button type="button" [class.here]="allAsSlip()" (click)="give(null)">
            as the slip says: {{ store.intake()?.assignment?.title ?? 'nothing yet' }}
          </button>
        </li>
        @for (one of proposals(); track one.id) {
          <li>
            <button type="button" (click)="give(one)">
              {{ one.title }} <code>{{ one.from }}</code>
            </button>
          </li>
        }
      </ul>
      <label class="field" for="belong-to"
        ><span>Another assignment</span>
        <p-autocomplete
          inputId="belong-to"
          optionLabel="title"
          placeholder="Title or short name"
          appendTo="body"
          [autoOptionFocus]="true"
          [dropdown]="true"
          dropdownAriaLabel="Show all assignments"
          [forceSelection]="true"
          [suggestions]="found()"
          (completeMethod)="find($event)"
          (onSelect)="give($event.value)"
        />
      </label>
      <details>
        <summary>A new assignment</summary>
        <ts-assignment-form [everybody]="people()" [day]="day()" (added)="giveNew($event)" />
      </details>
      <h3>Taken by</h3>
      <label class="field" for="belong-by"
        ><span>Somebody else than {{ store.intake()?.contributor?.name ?? 'the slip says' }}</span>
        <p-autocomplete
          inputId="belong-by"
          optionLabel="name"
          placeholder="Name or code"
          appendTo="body"
          [autoOptionFocus]="true"
          [dropdown]="true"
          dropdownAriaLabel="Show everybody"
          [forceSelection]="true"
          [suggestions]="foundPeople()"
          (completeMethod)="findPeople($event)"
          (onSelect)="by($event.value)"
        />
      </label>
      @if (anyBySomebody()) {
        <button type="button" class="plain" (click)="by(null)">as the slip says: {{ store.intake()?.contributor?.name }}</button>
      }
      @if (clips().length) {
        <h3>
          Footage <span class="quiet">{{ clips().length | count: 'clip' }}</span>
        </h3>
        <div class="footage">
          <div role="group" aria-label="What the footage is for">
            @for (role of roles; track role) {
              <button type="button" class="role" [attr.aria-pressed]="roleNow() === role" (click)="sayRole(role)">
                {{ role }}
              </button>
            }
          </div>
          <input
            pInputText
            maxlength="40"
            [placeholder]="proposed() ?? 'Flat colour profile, if any'"
            aria-label="Flat colour profile"
            [ngModel]="profileNow()"
            (change)="sayProfile($any($event.target).value)"
          />
        </div>
      }
    </p-dialog>
  `,
  styles: `
    h3 {
      margin: 14px 0 6px;
      font-size: 15px;
    }
    .proposals {
      display: grid;
      gap: 6px;
      margin-bottom: 10px;
    }
    .proposals button,
    .plain {
      width: 100%;
      min-height: 36px;
      padding: 0 12px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--reed);
      font: 600 15px var(--font-text);
      text-align: left;
      cursor: pointer;
    }
    .plain {
      margin-top: 8px;
    }
    .here {
      border-color: var(--reed) !important;
    }
    .footage {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 12px;
    }
    .role {
      min-height: 36px;
      padding: 0 12px;
      border: 1px solid var(--line);
      background: var(--sheet);
      color: var(--ink);
      font: inherit;
      cursor: pointer;
    }
    .role[aria-pressed='true'] {
      background: var(--reed-soft);
      border-color: var(--reed);
    }
    summary {
      margin-top: 8px;
      min-height: 28px;
      cursor: pointer;
    }
  `,
})
export class BelongDialog {
  readonly tiles = input.required<readonly Tile[]>();
  readonly done = output();

  protected readonly store = inject(IntakeStore);
  private readonly acts = inject(Acts);
  private readonly session = inject(SessionService);
  private readonly view = inject(View);
  private readonly service = inject(PeopleService);
  protected readonly people = toSignal(this.service.contributors, { initialValue: [] as Contributor[] });
  private readonly typed = new Subject<string>();
  protected readonly found = toSignal(this.typed.pipe(switchMap((typed) => this.service.choices(typed, this.days()))), {
    initialValue: [] as Assignment[],
  });
  protected readonly foundPeople = signal<Contributor[]>([]);

  protected readonly open = computed(() => this.tiles().filter(isOpen));
  protected readonly allAsSlip = computed(() => this.open().every(({ lead }) => lead.assignment === null));
  protected readonly anyBySomebody = computed(() => this.open().some(({ lead }) => lead.contributor !== null));
  protected readonly day = computed(() => {
    const [first] = this.tiles();
    return first ? houseDay(first.lead.captured.local, this.session.dayBegins()) : '';
  });
  private readonly days = computed(() => [
    ...new Set(this.open().map(({ lead }) => houseDay(lead.captured.local, this.session.dayBegins()))),
  ]);
  private readonly ofDays = toSignal(
    toObservable(this.days).pipe(switchMap((days) => (days.length ? this.service.choices('', days) : of([])))),
    { initialValue: [] as Assignment[] },
  );
  protected readonly proposals = computed(() =>
    proposeAssignments(
      this.open().map(({ lead }) => lead.captured.local),
      this.ofDays().filter(({ id }) => id !== this.store.intake()?.assignment?.id),
      this.store.intake()?.contributor?.id ?? null,
      this.session.dayBegins(),
    ).slice(0, 4),
  );

  protected readonly roles = FOOTAGE_ROLES;
  protected readonly clips = computed(() => this.open().filter(({ lead }) => lead.kind === 'video'));
  /** What all of the clips say; null when they differ or say nothing. */
  protected readonly roleNow = computed(() => only(this.clips().map(({ lead }) => lead.role)));
  protected readonly profileNow = computed(() => only(this.clips().map(({ lead }) => lead.profile)) ?? '');

  /** What the clips say of themselves; it holds as long as nobody says otherwise. */
  protected readonly proposed = computed(() => {
    const profile = only(this.clips().map(({ lead }) => profileOf(null, lead.clip)));
    return profile && `${profile}, as the clip says (else: none)`;
  });

  /** Said again, it is taken back. */
  protected sayRole(role: FootageRole): void {
    const next = this.roleNow() === role ? null : role;
    this.acts.judge(this.clips(), { role: next }, next ? `${next} footage` : 'no role');
  }

  protected sayProfile(profile: string): void {
    this.acts.judge(this.clips(), { profile: profile.trim() }, 'profile');
  }

  protected find({ query }: AutoCompleteCompleteEvent): void {
    this.typed.next(query);
  }

  protected findPeople({ query }: AutoCompleteCompleteEvent): void {
    const words = query.toLowerCase();
    const fits = ({ name, code }: Contributor) => name.toLowerCase().includes(words) || code.toLowerCase().startsWith(words);
    this.foundPeople.set(this.people().filter(fits));
  }

  protected give(to: { id: number; slug: string; title: string } | null): void {
    const assignment = to && { id: to.id, slug: to.slug, title: to.title };
    const isSlip = assignment?.id === this.store.intake()?.assignment?.id;
    this.acts.split(this.open(), { assignment: isSlip ? null : assignment }, to ? `to ${to.title}` : 'as on the slip');
    this.finish();
  }

  protected giveNew(id: number): void {
    this.acts.split(this.open(), { assignment: { id, slug: '', title: 'the new assignment' } }, 'to a new assignment');
    this.finish();
  }

  protected by(who: { id: number; code: string; name: string } | null): void {
    const contributor = who && { id: who.id, code: who.code, name: who.name };
    const isSlip = contributor?.id === this.store.intake()?.contributor?.id;
    this.acts.split(this.open(), { contributor: isSlip ? null : contributor }, who ? `by ${who.name}` : 'as on the slip');
    this.finish();
  }

  private finish(): void {
    this.view.chooseNone();
    this.done.emit();
  }
}

const only = <T>(all: readonly T[]): T | null => (new Set(all).size === 1 ? all[0]! : null);
