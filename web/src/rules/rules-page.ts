import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormsModule } from '@angular/forms';
import { RuleFile, type IntakeSummary } from '@tally/contract';
import { NEEDED_VERDICTS, OWN_LINES_KINDS, renamesToCsv, renamesToTsv, STARTERS, type Starter } from '@tally/core/rule';
import { MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { map } from 'rxjs';
import { IntakesService } from '../api/intakes.service';
import { wordsFor } from '../api/problem';
import { CountPipe, HouseTimePipe } from '../shared/amounts';
import { FolderTree } from '../shared/folder-tree';
import { Path } from '../shared/path';
import type { MayBeUnsaved } from '../shared/unsaved';
import { AsOnCardForm, keptInWords } from './as-on-card-form';
import { Draft, type LineName } from './draft';
import { FieldList } from './field-list';
import { LineEditor } from './line-editor';
import { NamesTable } from './names-table';
import { RevisionList } from './revision-list';
import { SettingsForm } from './settings-form';
import { TrialRunner } from './trial-runner';
import { slipFor } from './trying';
import { VerdictList } from './verdict-list';
import { May } from '../shared/may';

/** The house rule: written once, tried on a real card while it is written, and judged before it counts. */
@Component({
  selector: 'ts-rules',
  imports: [
    May,
    FormsModule,
    ButtonModule,
    InputTextModule,
    SelectModule,
    CountPipe,
    HouseTimePipe,
    FolderTree,
    FieldList,
    LineEditor,
    NamesTable,
    Path,
    RevisionList,
    SettingsForm,
    AsOnCardForm,
    VerdictList,
  ],
  providers: [Draft, TrialRunner],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './rules-page.html',
  styleUrl: './rules-page.css',
  host: { '(window:beforeunload)': 'leave($event)' },
})
export class RulesPage implements MayBeUnsaved {
  protected readonly draft = inject(Draft);
  private readonly messages = inject(MessageService);
  protected readonly starters = [...STARTERS];
  protected readonly whose = [
    { value: null, words: 'all kinds' },
    ...OWN_LINES_KINDS.map((kind) => ({ value: kind, words: `${kind} only` })),
  ];
  protected readonly intakes = toSignal(
    inject(IntakesService)
      .find({ limit: 60 })
      .pipe(map(({ intakes }) => intakes.filter(({ items }) => items > 0))),
    { initialValue: [] as IntakeSummary[] },
  );
  protected readonly active = signal<LineName>('fileLine');
  protected readonly showsRevisions = signal(false);
  protected readonly showsSettings = signal(false);
  protected readonly showsKept = signal(false);
  protected readonly kept = computed(() => keptInWords(this.draft.settings().asOnCard));
  protected readonly starter = signal<Starter | null>(null);
  protected readonly note = signal('');
  protected readonly saving = signal(false);
  protected readonly failed = signal<string | null>(null);

  protected readonly tried = this.draft.tried;
  protected readonly refused = computed(
    () => this.tried()?.verdicts.filter(({ name, outcome }) => outcome === 'fails' && NEEDED_VERDICTS.includes(name)) ?? [],
  );
  protected readonly canSave = computed(
    () =>
      this.draft.isChanged() &&
      this.draft.fault() === null &&
      !this.refused().length &&
      this.note().trim() !== '' &&
      !this.saving(),
  );
  /** Why the rule cannot be saved yet. */
  protected readonly why = computed(() => {
    if (!this.draft.isChanged()) return 'This is the house rule.';
    const fault = this.draft.fault();
    if (fault?.line === 'settings') return fault.error.message;
    if (fault?.line === 'card') return 'The folder line of what is kept as on the card cannot be read yet.';
    if (fault) return `The ${fault.line} line${fault.kind ? ` for ${fault.kind}` : ''} cannot be read yet.`;
    const [first] = this.refused();
    if (first) return `Not ${first.name}: this cannot be the house rule.`;
    return this.note().trim() ? '' : 'Say in a few words why, then it can be saved.';
  });
  /** What the names are shown with though nobody has said it. */
  protected readonly assumed = computed(() => {
    const material = this.draft.material();
    if (!material) return '';
    const { contributor, assignment } = slipFor(material);
    const said = [
      material.slip.contributor ? '' : `from ${contributor?.name ?? ''}`,
      material.slip.assignment ? '' : `shot for ${assignment?.title ?? ''}`,
    ];
    return said.filter(Boolean).join(' and ');
  });
  protected readonly newFolders = computed(() => this.tried()?.folders.filter(({ isNew }) => isNew).length ?? 0);

  constructor() {
    this.draft.open().catch((error: unknown) => this.failed.set(wordsFor(error)));
  }

  /** A draft that nobody has saved. */
  unsaved(): string | null {
    return this.draft.isChanged() ? 'The rule was changed and is not saved.' : null;
  }

  protected leave(event: BeforeUnloadEvent): void {
    if (this.unsaved() !== null) event.preventDefault();
  }

  protected hasOwn(): boolean {
    const kind = this.draft.kind();
    return kind !== null && this.draft.rule().kinds?.[kind] !== undefined;
  }

  /** A starter is where one begins, not what one is in: the choice empties itself. */
  protected begin(starter: Starter): void {
    this.starter.set(starter);
    this.draft.begin(starter);
    setTimeout(() => this.starter.set(null));
  }

  protected tryOn(intakeId: number): void {
    this.draft.tryOn(intakeId).catch((error: unknown) => this.say('error', wordsFor(error)));
  }

  protected async save(): Promise<void> {
    if (!this.canSave()) return;
    this.saving.set(true);
    try {
      const revision = await this.draft.save(this.note().trim());
      this.note.set('');
      this.say('success', `Revision ${revision} is the house rule now. What is filed stays where it is.`);
    } catch (error) {
      this.say('error', wordsFor(error));
    } finally {
      this.saving.set(false);
    }
  }

  protected writeFile(): void {
    const file: RuleFile = { format: 'tally-stick-house-rule', version: 1, rule: this.draft.rule(), note: this.note() };
    download('house-rule.json', 'application/json', JSON.stringify(file, null, 2));
  }

  protected async readFile(input: HTMLInputElement): Promise<void> {
    const [file] = input.files ?? [];
    input.value = '';
    if (!file) return;
    try {
      this.draft.take(RuleFile.parse(JSON.parse(await file.text())).rule);
    } catch {
      this.say('error', `${file.name} is not a house rule as Tally Stick writes it. Nothing was changed.`);
    }
  }

  protected csv(): void {
    download('names.csv', 'text/csv', renamesToCsv(this.tried()?.names ?? []));
  }

  protected async copy(): Promise<void> {
    await navigator.clipboard.writeText(renamesToTsv(this.tried()?.names ?? []));
    this.say('success', 'Old and new names are on the clipboard.');
  }

  private say(severity: 'success' | 'error', summary: string): void {
    this.messages.add({ severity, summary, life: severity === 'error' ? 15_000 : 6_000 });
  }
}

function download(name: string, type: string, text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
