import { inject, Injectable } from '@angular/core';
import { Router } from '@angular/router';
import { MessageService } from 'primeng/api';
import { LendingService } from '../api/lending.service';
import { wordsFor } from '../api/problem';
import { Scans } from './scans';

/** What a label does that was scanned, or typed into the field for it. */
@Injectable({ providedIn: 'root' })
export class LabelScans {
  private readonly router = inject(Router);
  private readonly lending = inject(LendingService);
  private readonly scans = inject(Scans);
  private readonly messages = inject(MessageService);

  /** A label is the page's, if it wants it; at the desk it moves its card; elsewhere it opens it. */
  scanned(label: string): void {
    if (this.scans.taker()?.(label)) return;
    const atTheDesk = this.router.url === '/desk';
    this.lending.scan(label, atTheDesk).subscribe({
      next: ({ what, intakeId, says }) => {
        if (what === 'open') void this.router.navigate(['/intake', intakeId]);
        else if (what === 'thing') void this.router.navigate(['/lending'], { queryParams: { words: label } });
        else if (what === 'unknown' && atTheDesk) void this.router.navigate(['/lending'], { queryParams: { add: label } });
        else this.messages.add({ severity: what === 'unknown' ? 'warn' : 'success', summary: says, life: 6000 });
      },
      error: (error: unknown) => this.messages.add({ severity: 'warn', summary: wordsFor(error), life: 6000 }),
    });
  }
}
