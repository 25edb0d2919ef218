import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  inject,
  input,
  numberAttribute,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { Router } from '@angular/router';
import { ButtonModule } from 'primeng/button';
import { DialogModule } from 'primeng/dialog';
import { Closer } from './closer';
import { Drawer } from './drawer';
import { Foot } from './foot';
import { IntakeStore } from './intake-store';
import { Sheet } from './sheet';
import { Slip } from './slip';

const KEYS: readonly [string, string][] = [
  ['arrows', 'move'],
  ['Space', 'take or leave'],
  ['Enter', 'look closer'],
  ['A', 'take everything that is new'],
  ['N', 'take nothing'],
  ['Esc', 'back'],
  ['?', 'these keys'],
];

/** From the card in the reader to proven copies: slip above, sheet and consequences, stick below. */
@Component({
  selector: 'ts-intake',
  imports: [Slip, Sheet, Drawer, Foot, Closer, DialogModule, ButtonModule],
  providers: [IntakeStore],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <ts-slip />
    <div class="middle">
      <ts-sheet [focus]="focus()" (focusOn)="focus.set($event)" (look)="lookAt($event)" />
      <ts-drawer />
    </div>
    <ts-foot (giveBack)="giveBack()" />
    @if (closer()) {
      <ts-closer [index]="focus()" [tiles]="order()" (closed)="closer.set(false)" />
    }
    <p-dialog
      header="The drive changed while you looked"
      closeAriaLabel="Close"
      [modal]="true"
      [visible]="changed()"
      (visibleChange)="store.changes.set(null)"
      [style]="{ width: '640px' }"
    >
      <p>Somebody filed in between. Nothing has been written yet. This is what differs now:</p>
      <ul class="changes" tabindex="0" aria-label="What differs">
        @for (change of (store.changes() ?? []).slice(0, 12); track change.from) {
          <li>
            <code>{{ change.from }}</code><br /><s>{{ change.shown ?? 'not filed' }}</s>
            <code>{{ change.now ?? 'not filed' }}</code>
          </li>
        }
      </ul>
      @if ((store.changes()?.length ?? 0) > 12) {
        <p class="quiet">and {{ store.changes()!.length - 12 }} more</p>
      }
      <ng-template #footer>
        <button pButton type="button" class="p-button-outlined" (click)="store.changes.set(null)">Look again</button>
        <button pButton type="button" (click)="store.file()">File {{ store.counts().taken }} as it is now</button>
      </ng-template>
    </p-dialog>
    <p-dialog header="Keys" closeAriaLabel="Close" [modal]="true" [(visible)]="help">
      <dl>
        @for (key of keys; track key[0]) {
          <dt>
            <kbd>{{ key[0] }}</kbd>
          </dt>
          <dd>{{ key[1] }}</dd>
        }
      </dl>
    </p-dialog>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-rows: auto minmax(0, 1fr) auto;
      height: 100vh;
    }
    .middle {
      display: grid;
      grid-template-columns: minmax(0, 1fr) 322px;
      min-height: 0;
    }
    .changes {
      max-height: 46vh;
      overflow-y: auto;
    }
    .changes li {
      padding: 6px 0;
      border-bottom: 1px solid var(--line);
      overflow-wrap: anywhere;
    }
    dl {
      display: grid;
      grid-template-columns: 90px 1fr;
      gap: 8px;
    }
    kbd {
      border: 1px solid var(--line);
      border-radius: 4px;
      padding: 1px 8px;
      font: 13px var(--font-mono);
    }
    @media (max-width: 1000px) {
      .middle {
        grid-template-columns: minmax(0, 1fr) 260px;
      }
    }
  `,
  host: { '(document:keydown)': 'key($event)' },
})
export class IntakePage {
  protected readonly store = inject(IntakeStore);
  private readonly router = inject(Router);
  readonly id = input.required({ transform: numberAttribute });

  private readonly sheet = viewChild.required(Sheet);
  protected readonly focus = signal(0);
  protected readonly closer = signal(false);
  protected readonly help = signal(false);
  protected readonly keys = KEYS;
  protected readonly changed = computed(() => this.store.changes() !== null);
  protected readonly order = computed(() => this.sheet().order());

  constructor() {
    effect(() => {
      const id = this.id();
      untracked(() => this.store.open(id));
    });
  }

  protected lookAt(index: number): void {
    this.focus.set(index);
    this.closer.set(true);
  }

  protected giveBack(): void {
    this.store.giveBack(() => void this.router.navigateByUrl('/desk'));
  }

  protected key(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    const typing = target.closest('input, textarea, select, .p-popover, .p-dialog') !== null;
    const onButton = target.closest('button, a, summary') !== null && (event.key === ' ' || event.key === 'Enter');
    if (typing || onButton || event.ctrlKey || event.metaKey || event.altKey) return;
    if (this.act(event.key)) event.preventDefault();
  }

  private act(key: string): boolean {
    const last = this.order().length - 1;
    const go = (index: number) => this.focus.set(Math.max(0, Math.min(last, index)));
    const tile = this.order()[this.focus()];
    switch (key) {
      case 'ArrowRight':
        go(this.focus() + 1);
        return true;
      case 'ArrowLeft':
        go(this.focus() - 1);
        return true;
      case 'ArrowDown':
      case 'ArrowUp':
        if (!this.closer()) this.focus.set(this.sheet().neighbour(this.focus(), key === 'ArrowDown' ? 1 : -1));
        return true;
      case ' ':
        if (tile) this.store.take([tile], !tile.lead.taken);
        return true;
      case 'Enter':
        if (tile) this.closer.set(true);
        return true;
      case 'Escape':
        if (this.closer()) this.closer.set(false);
        return true;
      case 'a':
      case 'n':
        this.store.take(this.store.tiles(), key === 'a');
        return true;
      case '?':
        this.help.set(true);
        return true;
      default:
        return false;
    }
  }
}
