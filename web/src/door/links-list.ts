import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import type { LinkView } from '@tally/contract';
import { ConfirmationService, MessageService } from 'primeng/api';
import { ButtonModule } from 'primeng/button';
import { DoorService } from '../api/door.service';
import { wordsFor } from '../api/problem';
import { SessionService } from '../api/session.service';
import { BytesPipe, CountPipe, HouseTimePipe } from '../shared/amounts';
import { boundsInWords } from '../shared/bounds';
import { LinkDialog } from '../shared/link-dialog';

/** A page of links that were made. */
const PAGE = 50;

/** Links by which others hand in: what each is bound to, what came in by it, and how it ends. */
@Component({
  selector: 'ts-links-list',
  imports: [ButtonModule, LinkDialog, BytesPipe, CountPipe, HouseTimePipe],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="bar"><button pButton type="button" (click)="making.set(true)">New link</button></div>
    <table>
      <thead>
        <tr>
          <th scope="col" style="width: 18%">For</th>
          <th scope="col">Bound to</th>
          <th scope="col" style="width: 19%">Came in</th>
          <th scope="col" style="width: 21%">Good until</th>
          <th scope="col" style="width: 112px"><span class="visually-hidden">End it</span></th>
        </tr>
      </thead>
      <tbody>
        @for (link of links(); track link.id) {
          <tr [class.over]="!isGood(link)">
            <td>
              <b>{{ link.name || 'a link' }}</b>
              <span class="quiet">{{ link.madeBy }}, {{ link.madeAt | houseTime: 'day' }}</span>
            </td>
            <td>{{ bounds(link) }}</td>
            <td>
              @if (link.handIns) {
                {{ link.files | count: 'file' }}, {{ link.bytes | bytes }}
                <span class="quiet">in {{ link.handIns | count: 'hand-in' }}</span>
              } @else {
                <span class="quiet">nothing yet</span>
              }
            </td>
            <td>
              @if (link.revokedAt) {
                ended {{ link.revokedAt | houseTime: 'short' }}
              } @else {
                {{ isGood(link) ? '' : 'ended ' }}{{ link.expiresAt | houseTime: 'short' }}
              }
              @if (link.sessions) {
                <span class="quiet">{{ link.sessions | count: 'browser' }} came by it</span>
              }
            </td>
            <td>
              @if (isGood(link)) {
                <button type="button" class="plain" (click)="end(link)">
                  End it<span class="visually-hidden">: {{ link.name || 'a link' }}</span>
                </button>
              }
            </td>
          </tr>
        } @empty {
          <tr>
            <td colspan="5" class="empty">{{ problem() || 'No links yet. Make one for a class, or for a single person.' }}</td>
          </tr>
        }
      </tbody>
    </table>
    @if (more()) {
      <button pButton type="button" class="p-button-outlined" (click)="load(links().at(-1)!.id)">Older links</button>
    }
    <ts-link-dialog [open]="making()" (closed)="making.set(false); load()" />
  `,
  styleUrl: './door-table.css',
})
export class LinksList {
  private readonly door = inject(DoorService);
  private readonly sessions = inject(SessionService);
  private readonly messages = inject(MessageService);
  private readonly confirmation = inject(ConfirmationService);
  protected readonly links = signal<readonly LinkView[]>([]);
  protected readonly more = signal(false);
  protected readonly problem = signal('');
  protected readonly making = signal(false);
  protected readonly bounds = boundsInWords;

  constructor() {
    this.load();
  }

  protected load(before?: number): void {
    this.door.links(before).subscribe({
      next: (page) => {
        this.links.update((links) => (before === undefined ? page : [...links, ...page]));
        this.more.set(page.length === PAGE);
      },
      error: (error: unknown) => this.problem.set(wordsFor(error)),
    });
  }

  protected isGood({ revokedAt, expiresAt }: LinkView): boolean {
    return revokedAt === null && Date.parse(expiresAt) > this.sessions.now().getTime();
  }

  protected end(link: LinkView): void {
    const out = link.sessions
      ? ` ${link.sessions === 1 ? 'Who' : 'All who'} came by it ${link.sessions === 1 ? 'is' : 'are'} out at once.`
      : '';
    this.confirmation.confirm({
      header: `End the link for ${link.name || 'handing in'}?`,
      message: `Nobody hands in by it any more.${out} What came in stays.`,
      acceptLabel: 'End it',
      rejectLabel: 'Keep it',
      accept: () =>
        this.door.endLink(link.id).subscribe({
          next: () => this.load(),
          error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 6000 }),
        }),
    });
  }
}
