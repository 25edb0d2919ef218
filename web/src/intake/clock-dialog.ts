import { ChangeDetectionStrategy, Component, computed, effect, inject, output, signal, untracked } from '@angular/core';
import { FormsModule } from '@angular/forms';
import type { BodyView } from '@tally/contract';
import { cameraName } from '@tally/core/card';
import { readTrueTime, shiftBetween, shiftInWords, shiftTime, type CorrectionKind } from '@tally/core/capture';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { InputTextModule } from 'primeng/inputtext';
import { SelectModule } from 'primeng/select';
import { SessionService } from '../api/session.service';
import { CountPipe } from '../shared/amounts';
import { Acts } from '../sheet/acts';
import { IntakeStore } from './intake-store';
import { Picture } from '../sheet/picture';
import { bodyKey, cameraOf, isOpen, nameOf, type Tile } from '../sheet/tiles';
import { View } from '../sheet/view';

type Way = 'true time' | 'zone' | 'other camera';

/** The cameras of a card and their clocks: finds a shift from one known moment, shows it, and moves every item of that camera. */
@Component({
  selector: 'ts-clock-dialog',
  imports: [FormsModule, DialogModule, ButtonModule, InputTextModule, SelectModule, Picture, CountPipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <p-dialog
      header="Cameras and their clocks"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="true"
      (visibleChange)="done.emit()"
      [style]="{ width: '720px' }"
    >
      <ul class="bodies">
        @for (one of store.bodies(); track keyOf(one)) {
          <li [class.here]="keyOf(one) === key()">
            <button type="button" [attr.aria-pressed]="keyOf(one) === key()" (click)="key.set(keyOf(one))">
              <b>{{ nameOfBody(one) }}</b>
              <span class="quiet">{{ one.items | count: 'item' }}, {{ said(one.first) }} to {{ said(one.last) }}</span>
              @if (one.owner) {
                <span class="quiet">known as {{ one.owner.name }}’s</span>
              }
              @if (one.unset) {
                <span class="attention">its clock was not set: {{ one.unset | count: 'item' }} of its first day</span>
              }
              @if (one.shiftSeconds) {
                <span class="moved">moved {{ words(one.shiftSeconds) }}</span>
              }
            </button>
            @if (one.remembered; as last) {
              @if (last.seconds !== one.shiftSeconds) {
                <button type="button" class="again" (click)="again(one)">
                  {{ words(last.seconds) }}, as {{ last.saidBy }} found on {{ last.saidAt.slice(0, 10) }}: apply again
                </button>
              }
            }
          </li>
        } @empty {
          <li class="empty">No file on this card says which camera took it.</li>
        }
      </ul>
      @if (sample(); as tile) {
        <div class="ways" role="group" aria-label="How the true time is known">
          @for (one of ways; track one.way) {
            <button type="button" [attr.aria-pressed]="way() === one.way" (click)="way.set(one.way)">{{ one.words }}</button>
          }
        </div>
        <div class="moment">
          <div class="frame"><ts-picture [item]="tile.lead" /></div>
          <div class="say">
            <p>
              <code>{{ nameOfItem(tile) }}</code>&ngsp;<span class="quiet">the camera says</span>&ngsp;<b>{{
                said(tile.lead.captured.camera)
              }}</b>
            </p>
            @switch (way()) {
              @case ('true time') {
                <label class="field"
                  ><span>When was it really? A time is enough when the day is right</span>
                  <input pInputText name="true" [placeholder]="example" [ngModel]="typed()" (ngModelChange)="typed.set($event)" />
                </label>
                <span role="status">
                  @if (moment(); as read) {
                    understood as <b>{{ said(read) }}</b>
                  } @else if (typed().trim()) {
                    <span class="attention">That is no time that can be read: write it like {{ example }}</span>
                  }
                </span>
                <span class="quiet">Another picture of this camera: choose it on the sheet, then press C.</span>
              }
              @case ('zone') {
                <label class="field" for="zone-hours"
                  ><span>The camera was set to another time zone: hours to add</span>
                  <p-select
                    inputId="zone-hours"
                    [options]="zones"
                    optionLabel="words"
                    optionValue="seconds"
                    [ngModel]="zone()"
                    (ngModelChange)="zone.set($event)"
                    ariaLabel="Hours to add"
                    appendTo="body"
                /></label>
              }
              @case ('other camera') {
                @if (pair(); as other) {
                  <p>
                    <code>{{ nameOfItem(other) }}</code> <span class="quiet">of {{ cameraOfTile(other) }} says</span>&ngsp;<b>{{
                      said(other.lead.captured.local)
                    }}</b>
                  </p>
                  <p class="quiet">If both show one moment, this camera is moved to that one’s time.</p>
                } @else {
                  <p class="attention">
                    Choose two pictures of one moment on the sheet, one of each camera (Ctrl-click or X), then press C.
                  </p>
                }
              }
            }
          </div>
        </div>
        @if (seconds(); as shift) {
          <table>
            <caption>
              {{
                words(shift)
              }}
            </caption>
            <thead>
              <tr>
                <th scope="col">Item</th>
                <th scope="col">The camera says</th>
                <th scope="col">It becomes</th>
              </tr>
            </thead>
            <tbody>
              @for (row of preview(); track row.name) {
                <tr>
                  <td>
                    <code>{{ row.name }}</code>
                  </td>
                  <td>{{ row.before }}</td>
                  <td>
                    <b>{{ row.after }}</b>
                  </td>
                </tr>
              }
            </tbody>
          </table>
        }
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="done.emit()">Leave it</button>
        <button pButton type="button" [disabled]="seconds() === null || !mine().length" (click)="accept()">
          {{ seconds() === null ? 'Move' : 'Move ' + mine().length + ' items ' + words(seconds()!) }}
        </button>
      </ng-template>
    </p-dialog>
  `,
  styles: `
    .bodies {
      display: grid;
      gap: 6px;
    }
    .bodies li {
      border: 1px solid var(--line);
      border-radius: 6px;
    }
    .bodies li.here {
      border-color: var(--reed);
      background: var(--reed-soft);
    }
    .bodies button {
      display: flex;
      flex-wrap: wrap;
      gap: 4px 14px;
      align-items: center;
      width: 100%;
      min-height: 40px;
      padding: 6px 12px;
      border: 0;
      background: none;
      color: inherit;
      font: inherit;
      text-align: left;
      cursor: pointer;
    }
    .bodies .again {
      border-top: 1px solid var(--line);
      color: var(--reed);
      font-weight: 600;
    }
    .ways {
      display: flex;
      gap: 6px;
      margin: 16px 0 10px;
    }
    .ways button {
      min-height: 32px;
      padding: 0 12px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--sheet);
      color: var(--reed);
      font: 600 13px var(--font-text);
      cursor: pointer;
    }
    .ways [aria-pressed='true'] {
      background: var(--reed);
      color: var(--on-reed);
    }
    .moment {
      display: grid;
      grid-template-columns: 180px 1fr;
      gap: 16px;
    }
    .frame {
      height: 120px;
    }
    .say {
      display: grid;
      gap: 8px;
      align-content: start;
    }
    table {
      width: 100%;
      margin-top: 12px;
    }
    caption {
      font: 600 15px var(--font-title);
      text-align: left;
      padding: 4px 0;
    }
    td {
      padding: 3px 0;
    }
  `,
})
export class ClockDialog {
  readonly done = output();
  protected readonly store = inject(IntakeStore);
  private readonly view = inject(View);
  private readonly acts = inject(Acts);

  protected readonly ways: readonly { way: Way; words: string }[] = [
    { way: 'true time', words: 'I know when this was' },
    { way: 'zone', words: 'Another time zone' },
    { way: 'other camera', words: 'As another camera says' },
  ];
  protected readonly zones = Array.from({ length: 27 }, (_, i) => i - 12)
    .filter((hours) => hours !== 0)
    .map((hours) => ({ words: `${hours > 0 ? '+' : '−'}${Math.abs(hours)} h`, seconds: hours * 3600 }));

  protected readonly way = signal<Way>('true time');
  protected readonly typed = signal('');
  protected readonly zone = signal(3600);
  /** Which body it is about; at first that of the picture one is at, or the one whose clock was not set. */
  protected readonly key = signal('');

  private readonly subject = this.view.subject();
  protected readonly mine = computed(() =>
    this.store.tiles().filter((tile) => isOpen(tile) && bodyKey(tile.lead) === this.key()),
  );
  protected readonly sample = computed<Tile | undefined>(
    () => this.subject.find((tile) => bodyKey(tile.lead) === this.key()) ?? this.mine()[0],
  );
  /** The other of two chosen pictures of one moment. */
  protected readonly pair = computed(() => this.subject.find((tile) => bodyKey(tile.lead) !== this.key()));

  private readonly dates = inject(SessionService).dates;
  protected readonly example = this.dates() === 'day first' ? '14:05 or 18/4/2026 14:05' : '14:05 or 4/18/2026 2:05 pm';
  /** The true time that was typed, as it is understood. */
  protected readonly moment = computed(() => {
    const camera = this.sample()?.lead.captured.camera;
    return camera ? readTrueTime(this.typed(), camera, this.dates()) : null;
  });

  protected readonly seconds = computed<number | null>(() => {
    const camera = this.sample()?.lead.captured.camera;
    if (!camera) return null;
    if (this.way() === 'zone') return this.zone();
    const other = this.pair();
    if (this.way() === 'other camera') return other ? shiftBetween(camera, other.lead.captured.local) : null;
    const moment = this.moment();
    return moment ? shiftBetween(camera, moment) : null;
  });
  private readonly kind = computed<CorrectionKind>(() => (this.way() === 'zone' ? 'zone' : 'clock'));

  /** The first few, and the last one. */
  protected readonly preview = computed(() => {
    const seconds = this.seconds() ?? 0;
    const mine = this.mine();
    const some = mine.length > 4 ? [...mine.slice(0, 3), mine.at(-1)!] : mine;
    return some.map(({ lead }) => ({
      name: nameOf(lead),
      before: this.said(lead.captured.camera),
      after: this.said(shiftTime({ local: lead.captured.camera, offsetMinutes: null }, { kind: this.kind(), seconds }).local),
    }));
  });

  constructor() {
    if (this.subject.length > 1 && new Set(this.subject.map(({ lead }) => bodyKey(lead))).size === 2)
      this.way.set('other camera');
    const first = this.subject.find(({ lead }) => cameraOf(lead));
    effect(() => {
      const bodies = this.store.bodies();
      untracked(() => {
        if (this.key() || !bodies.length) return;
        const unset = bodies.find((body) => body.unset > 0);
        this.key.set(first ? bodyKey(first.lead) : bodyKey(unset ?? bodies[0]!));
      });
    });
  }

  protected again(body: BodyView): void {
    const { seconds, kind } = body.remembered!;
    this.acts.correct({ make: body.make, model: body.model, serial: body.serial, shift: { seconds, kind } }, 'clock');
    this.done.emit();
  }

  protected accept(): void {
    const body = this.mine()[0]!.lead;
    const shift = { seconds: this.seconds()!, kind: this.kind() };
    this.acts.correct({ make: body.make, model: body.model, serial: body.serial, shift }, 'clock');
    this.view.chooseNone();
    this.done.emit();
  }

  protected readonly keyOf = bodyKey;
  protected readonly words = shiftInWords;
  protected said(local: string): string {
    return local.slice(0, 19).replace('T', ' ');
  }
  protected nameOfBody(body: BodyView): string {
    return [cameraName(body), body.serial && `no. ${body.serial}`].filter(Boolean).join(' ');
  }
  protected nameOfItem(tile: Tile): string {
    return nameOf(tile.lead);
  }
  protected cameraOfTile(tile: Tile): string {
    return cameraOf(tile.lead);
  }
}
