import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { DeskService } from '../api/desk.service';
import { HouseTimePipe } from '../shared/amounts';

/** The house rule in force, read out. */
@Component({
  selector: 'ts-rules',
  imports: [HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <header class="page-head">
        <h1>Rules</h1>
        <span class="quiet">the house rule in force</span>
      </header>
      @if (rule(); as rule) {
        <section>
          <h2>
            Revision {{ rule.revision }} <span class="quiet">since {{ rule.createdAt | houseTime: 'day' }}</span>
          </h2>
          <dl>
            <dt>folder line</dt>
            <dd>
              <code>{{ rule.folderLine }}</code>
            </dd>
            <dt>file line</dt>
            <dd>
              <code>{{ rule.fileLine }}</code>
            </dd>
            <dt>for example</dt>
            <dd>
              <code>{{ rule.example }}</code>
            </dd>
          </dl>
        </section>
        <section>
          <h2>Fields a rule can use</h2>
          <table>
            <thead>
              <tr>
                <th scope="col">field</th>
                <th scope="col">kind</th>
                <th scope="col">example</th>
                <th scope="col">what it is</th>
              </tr>
            </thead>
            <tbody>
              @for (field of rule.fields; track field.name) {
                <tr>
                  <td>
                    <code>{{ '{' + field.name + '}' }}</code>
                  </td>
                  <td>{{ field.type }}</td>
                  <td>
                    <code>{{ field.example }}</code>
                  </td>
                  <td>{{ field.explanation }}</td>
                </tr>
              }
            </tbody>
          </table>
        </section>
      } @else {
        <div class="skeleton" style="height: 200px"></div>
      }
    </div>
  `,
  styles: `
    section {
      border-top: 1px solid var(--strong-line);
      padding: 12px 0 24px;
      max-width: 900px;
    }
    dl {
      display: grid;
      grid-template-columns: 110px 1fr;
      gap: 10px;
      margin-top: 12px;
    }
    dt {
      color: var(--quiet);
    }
    dd {
      overflow-wrap: anywhere;
    }
    table {
      width: 100%;
      margin-top: 8px;
      border-collapse: collapse;
    }
    th {
      text-align: left;
      color: var(--quiet);
      font-weight: 400;
      font-size: 13px;
    }
    th,
    td {
      height: 36px;
      border-bottom: 1px solid var(--line);
      padding-right: 16px;
    }
  `,
})
export class RulesPage {
  protected readonly rule = toSignal(inject(DeskService).rule());
}
