import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { NEEDED_VERDICTS, type Verdict } from '@tally/core/rule';
import { Path } from '../shared/path';

const MARKS = { holds: 'pi-check-circle', fails: 'pi-times-circle', open: 'pi-question-circle' } as const;
const WORDS = { holds: 'holds', fails: 'does not hold', open: 'nothing found against it' } as const;

/** The five verdicts, each with the case that shows it when it does not hold. */
@Component({
  selector: 'ts-verdict-list',
  imports: [Path],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ul aria-label="The five verdicts" aria-live="polite">
      @for (one of verdicts(); track one.name) {
        <li [class]="isTaste(one) ? 'taste' : one.outcome" [class.needed]="isNeeded(one)">
          <i class="pi {{ isTaste(one) ? 'pi-info-circle' : marks[one.outcome] }}" aria-hidden="true"></i>
          <div>
            <b>{{ one.name }}</b>
            <span class="outcome"
              >{{ isTaste(one) ? 'not by this rule: a matter of taste' : words[one.outcome]
              }}{{ isNeeded(one) ? ': cannot be the house rule' : '' }}</span
            >
            <p class="quiet">{{ one.because }}</p>
            @for (item of one.counterexample; track $index) {
              <p class="case">
                <span>{{ item.of }}</span>
                <span>→ <ts-path [of]="item.path" /></span>
              </p>
            }
          </div>
        </li>
      }
    </ul>
  `,
  styles: `
    li {
      display: grid;
      grid-template-columns: 22px 1fr;
      gap: 4px;
      padding: 6px 0;
      border-bottom: 1px solid var(--line);
    }
    .pi {
      font-size: 16px;
      margin-top: 2px;
    }
    .holds .pi {
      color: var(--reed);
    }
    .open .pi {
      color: var(--quiet);
    }
    .taste .pi,
    .taste .outcome {
      color: var(--quiet);
    }
    .fails .pi,
    .fails .outcome {
      color: var(--ochre);
    }
    .needed .pi,
    .needed .outcome {
      color: var(--trouble);
      font-weight: 640;
    }
    .outcome {
      margin-left: 6px;
      font-size: 13px;
    }
    .case {
      display: grid;
      margin-top: 4px;
      padding: 4px 8px;
      background: var(--sheet);
      border: 1px solid var(--line);
      border-radius: 6px;
      font-size: 13px;
      overflow-wrap: anywhere;
    }
  `,
})
export class VerdictList {
  readonly verdicts = input.required<readonly Verdict[]>();
  protected readonly marks = MARKS;
  protected readonly words = WORDS;
  /** A rule may be without this and still be a good one: that is said calmly, with the case that shows it. */
  protected isTaste(verdict: Verdict): boolean {
    return verdict.outcome === 'fails' && !this.isNeeded(verdict);
  }

  protected isNeeded({ name, outcome }: Verdict): boolean {
    return outcome === 'fails' && NEEDED_VERDICTS.includes(name);
  }
}
