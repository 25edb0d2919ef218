import { ChangeDetectionStrategy, Component, inject, input, output, signal, type OnInit } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { Contributor } from '@tally/contract';
import { proposeSlug } from '@tally/core/rule';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { MultiSelectModule } from 'primeng/multiselect';
import { PeopleService } from '../api/people.service';
import { wordsFor } from '../api/problem';

/** Adds an assignment: title, slug, days, place, who is expected and with how many cards. Emits the new id. */
@Component({
  selector: 'ts-assignment-form',
  imports: [FormsModule, ButtonModule, InputTextModule, MultiSelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <form (ngSubmit)="add()">
      <label class="field"
        ><span>Title</span
        ><input pInputText name="title" maxlength="160" [(ngModel)]="title" (ngModelChange)="slug = proposed(title)"
      /></label>
      <label class="field"
        ><span>Short name, used in folder names</span
        ><input pInputText name="slug" class="mono" maxlength="60" [(ngModel)]="slug"
      /></label>
      <label class="field"
        ><span>Code, if the house has one</span
        ><input pInputText name="code" class="mono" maxlength="20" pattern="[A-Za-z0-9-]*" [(ngModel)]="code"
      /></label>
      <div class="two">
        <label class="field"><span>First day</span><input pInputText type="date" name="from" [(ngModel)]="from" /></label>
        <label class="field"><span>Last day</span><input pInputText type="date" name="to" [min]="from" [(ngModel)]="to" /></label>
      </div>
      <label class="field"><span>Place</span><input pInputText name="place" maxlength="160" [(ngModel)]="place" /></label>
      <label class="field" for="expected"
        ><span>Who is expected</span>
        <p-multiselect
          inputId="expected"
          name="expected"
          [options]="everybody()"
          optionLabel="name"
          optionValue="id"
          placeholder="Nobody yet"
          ariaLabel="Who is expected"
          appendTo="body"
          [(ngModel)]="expected"
          (ngModelChange)="counted()"
        />
      </label>
      <label class="field"
        ><span>Cards expected</span
        ><input pInputText type="number" min="0" max="500" name="cards" [(ngModel)]="cards" (input)="ownCount = true"
      /></label>
      @if (problem()) {
        <p class="attention" role="alert">{{ problem() }}</p>
      }
      <button pButton type="submit" [disabled]="!title.trim() || !slug.trim() || !from">Add assignment</button>
    </form>
  `,
  styleUrl: './small-form.css',
})
export class AssignmentForm implements OnInit {
  readonly everybody = input.required<Contributor[]>();
  /** The day to propose, `yyyy-MM-dd`. */
  readonly day = input.required<string>();
  /** Contributors who are expected unless somebody says otherwise. */
  readonly expecting = input<readonly number[]>([]);
  readonly added = output<number>();
  private readonly people = inject(PeopleService);
  protected readonly problem = signal('');
  protected readonly proposed = proposeSlug;
  protected title = '';
  protected slug = '';
  protected code = '';
  protected from = '';
  protected to = '';
  protected place = '';
  protected cards = 1;
  protected expected: number[] = [];
  protected ownCount = false;

  ngOnInit(): void {
    this.from = this.day();
    this.expected = [...this.expecting()];
  }

  /** A card each, until somebody says another number. */
  protected counted(): void {
    if (!this.ownCount) this.cards = Math.max(1, this.expected.length);
  }

  protected add(): void {
    const { title, slug, code, from, place, expected } = this;
    const to = this.to && this.to >= from ? this.to : from;
    this.people
      .addAssignment({ title, slug, code, from, to, place, expectedCards: this.cards, expectedContributorIds: expected })
      .subscribe({
        next: ({ id }) => this.added.emit(id),
        error: (error: unknown) => this.problem.set(wordsFor(error)),
      });
  }
}
