import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { DAY_BEGINS } from '@tally/core/capture';
import { KINDS, type Kind } from '@tally/core/card';
import { own } from '@tally/core/lookup';
import { checkSeason, LANGUAGES, SEQUENCE_SCOPES, seasonOf, type RuleSettings } from '@tally/core/rule';
import { CheckboxModule } from 'primeng/checkbox';
import { InputNumberModule } from 'primeng/inputnumber';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { Draft } from './draft';

const MONTHS = Array.from({ length: 12 }, (_, month) => ({
  value: month + 1,
  words: new Intl.DateTimeFormat('en-GB', { month: 'long', timeZone: 'UTC' }).format(new Date(Date.UTC(2026, month, 15))),
}));
const SPACE_WORDS = [
  { value: 'keep', words: 'stay' },
  { value: 'hyphen', words: 'become -' },
  { value: 'underscore', words: 'become _' },
  { value: 'drop', words: 'go' },
];
const CASE_WORDS = [
  { value: 'keep', words: 'as it is' },
  { value: 'lower', words: 'lower case' },
  { value: 'upper', words: 'upper case' },
];

/** How the house writes names, whatever its lines say. */
@Component({
  selector: 'ts-settings-form',
  imports: [FormsModule, SelectModule, InputTextModule, InputNumberModule, CheckboxModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <fieldset>
      <legend>Numbers</legend>
      <label for="scope"
        ><span class="quiet">count within</span>
        <p-select
          inputId="scope"
          size="small"
          appendTo="body"
          [options]="scopes"
          [ngModel]="settings().sequence.scope"
          (ngModelChange)="say({ sequence: { scope: $event, start: settings().sequence.start } })"
        />
      </label>
      <label for="start"
        ><span class="quiet">begin with</span>
        <p-inputnumber
          inputId="start"
          [inputStyle]="{ width: '100%' }"
          size="small"
          [min]="0"
          [max]="1000000"
          [useGrouping]="false"
          [ngModel]="settings().sequence.start"
          (ngModelChange)="say({ sequence: { scope: settings().sequence.scope, start: $event ?? 1 } })"
        />
      </label>
    </fieldset>
    <fieldset>
      <legend>
        Season <span class="quiet">{{ seasonNow() }}</span>
      </legend>
      <label for="season-start"
        ><span class="quiet">begins in</span>
        <p-select
          inputId="season-start"
          size="small"
          appendTo="body"
          optionLabel="words"
          optionValue="value"
          [options]="months"
          [ngModel]="settings().season.startMonth"
          (ngModelChange)="say({ season: { startMonth: $event, label: settings().season.label } })"
        />
      </label>
      <label
        ><span class="quiet">written as</span>
        <input
          pInputText
          pSize="small"
          class="mono"
          [attr.aria-invalid]="seasonFault() !== null"
          [ngModel]="settings().season.label"
          (ngModelChange)="say({ season: { startMonth: settings().season.startMonth, label: $event } })"
        />
      </label>
      @if (seasonFault(); as words) {
        <p class="trouble">{{ words }}</p>
      }
    </fieldset>
    <fieldset>
      <legend>Days</legend>
      <label
        ><span class="quiet">begin at</span>
        <input
          pInputText
          pSize="small"
          type="time"
          min="00:00"
          max="12:59"
          [attr.aria-invalid]="dayFault()"
          [ngModel]="settings().day.begins"
          (ngModelChange)="day({ begins: $event })"
        />
      </label>
      @if (dayFault()) {
        <p class="trouble">A day begins between midnight and noon.</p>
      } @else if (settings().day.begins !== '00:00') {
        <p class="quiet">What was taken before belongs to the night of the day before: folders and counters, not the time.</p>
      }
      <label class="check" for="first-day"
        ><p-checkbox
          inputId="first-day"
          [binary]="true"
          [ngModel]="settings().day.assignment === 'first day'"
          (ngModelChange)="day({ assignment: $event ? 'first day' : 'each day' })"
        />
        an assignment of several days under its first</label
      >
    </fieldset>
    <fieldset>
      <legend>Letters</legend>
      <label for="spaces"
        ><span class="quiet">spaces</span>
        <p-select
          inputId="spaces"
          size="small"
          appendTo="body"
          optionLabel="words"
          optionValue="value"
          [options]="spaces"
          [ngModel]="settings().letters.spaces"
          (ngModelChange)="letters({ spaces: $event })"
        />
      </label>
      <label for="case"
        ><span class="quiet">case</span>
        <p-select
          inputId="case"
          size="small"
          appendTo="body"
          optionLabel="words"
          optionValue="value"
          [options]="cases"
          [ngModel]="settings().letters.case"
          (ngModelChange)="letters({ case: $event })"
        />
      </label>
      <label class="check" for="only-ascii"
        ><p-checkbox
          inputId="only-ascii"
          [binary]="true"
          [ngModel]="settings().letters.ascii"
          (ngModelChange)="letters({ ascii: $event })"
        />
        only ASCII</label
      >
      <label for="language"
        ><span class="quiet">months in</span>
        <p-select
          inputId="language"
          size="small"
          appendTo="body"
          optionLabel="words"
          optionValue="value"
          [options]="languages"
          [ngModel]="settings().language"
          (ngModelChange)="say({ language: $event })"
        />
      </label>
    </fieldset>
    <fieldset>
      <legend>Kinds are called</legend>
      @for (kind of kinds; track kind) {
        <label
          ><span class="quiet">{{ kind }}</span>
          <input pInputText pSize="small" [ngModel]="settings().kindWords[kind]" (ngModelChange)="word(kind, $event)" />
        </label>
      }
      <label
        ><span class="quiet">nobody says</span>
        <input pInputText pSize="small" [ngModel]="settings().missing" (ngModelChange)="say({ missing: $event || 'unknown' })" />
      </label>
    </fieldset>
    <fieldset>
      <legend>Cameras are called</legend>
      @for (camera of cameras(); track camera.model) {
        <label
          ><span class="quiet">{{ camera.model }}</span>
          <input
            pInputText
            pSize="small"
            [placeholder]="camera.model"
            [ngModel]="camera.name"
            (ngModelChange)="cameraName(camera.model, $event)"
          />
        </label>
      } @empty {
        <p class="quiet">No camera is known yet.</p>
      }
    </fieldset>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: repeat(auto-fill, minmax(210px, 1fr));
      gap: 10px 18px;
      padding: 10px 0;
    }
    fieldset {
      border: 0;
      border-top: 1px solid var(--line);
      padding: 6px 0 0;
      margin: 0;
      min-width: 0;
    }
    legend {
      padding: 0 8px 0 0;
      font-weight: 640;
      font-size: 13px;
    }
    label {
      display: grid;
      grid-template-columns: 86px minmax(0, 1fr);
      align-items: center;
      gap: 6px;
      min-height: 34px;
    }
    label.check {
      display: flex;
    }
    label span {
      overflow-wrap: anywhere;
    }
    input,
    p-select,
    p-inputnumber {
      width: 100%;
      min-width: 0;
    }
  `,
})
export class SettingsForm {
  private readonly draft = inject(Draft);
  protected readonly settings = this.draft.settings;
  protected readonly scopes = [...SEQUENCE_SCOPES];
  protected readonly months = MONTHS;
  protected readonly spaces = SPACE_WORDS;
  protected readonly cases = CASE_WORDS;
  protected readonly kinds = KINDS.filter((kind) => kind !== 'sidecar');
  protected readonly languages = Object.keys(LANGUAGES).map((value) => ({
    value,
    words: new Intl.DisplayNames('en', { type: 'language' }).of(value) ?? value,
  }));
  protected readonly seasonFault = computed(() => checkSeason(this.settings().season));
  protected readonly seasonNow = computed(() =>
    this.seasonFault() === null ? seasonOf(this.draft.context().captured, this.settings().season) : '',
  );
  protected readonly cameras = computed(() => {
    const models = new Set<string>();
    for (const { model } of this.draft.material()?.known.cameras ?? []) if (model) models.add(model);
    for (const { camera } of this.draft.material()?.items ?? []) if (camera.model) models.add(camera.model);
    const names = this.settings().cameraNames;
    return [...models].sort().map((model) => ({ model, name: own(names, model) ?? '' }));
  });

  protected say(change: Partial<RuleSettings>): void {
    this.draft.setSettings(change);
  }

  protected readonly dayFault = computed(() => !DAY_BEGINS.test(this.settings().day.begins));

  protected day(change: Partial<RuleSettings['day']>): void {
    this.say({ day: { ...this.settings().day, ...change } });
  }

  protected letters(change: Partial<RuleSettings['letters']>): void {
    this.say({ letters: { ...this.settings().letters, ...change } });
  }

  protected word(kind: Kind, word: string): void {
    if (word.trim()) this.say({ kindWords: { ...this.settings().kindWords, [kind]: word } });
  }

  protected cameraName(model: string, name: string): void {
    const { [model]: _old, ...others } = this.settings().cameraNames;
    this.say({ cameraNames: name.trim() ? { ...others, [model]: name } : others });
  }
}
