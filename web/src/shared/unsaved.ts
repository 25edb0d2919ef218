import { inject } from '@angular/core';
import type { CanDeactivateFn } from '@angular/router';
import { ConfirmationService } from 'primeng/api';
import { Observable } from 'rxjs';

/** A page that may hold what nobody has kept yet. */
export interface MayBeUnsaved {
  /** What would be lost, in words; null when nothing would. */
  unsaved(): string | null;
}

/** Leaving a page with unsaved changes asks first. */
export const askFirst: CanDeactivateFn<MayBeUnsaved> = (page) => {
  const what = page.unsaved();
  return what === null || asked(inject(ConfirmationService), what);
};

/** @returns whether the person wants to leave all the same. */
export function asked(confirmation: ConfirmationService, what: string): Observable<boolean> {
  return new Observable((answer) => {
    const say = (leave: boolean) => () => {
      answer.next(leave);
      answer.complete();
    };
    confirmation.confirm({
      header: 'Leave without saving?',
      message: what,
      acceptLabel: 'Leave it',
      rejectLabel: 'Stay',
      defaultFocus: 'reject',
      accept: say(true),
      reject: say(false),
    });
  });
}
