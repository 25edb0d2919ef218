import { computed, type Signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { Assignment } from '@tally/contract';
import { of, switchMap } from 'rxjs';
import type { Around, PeopleService } from '../api/people.service';
import type { SheetSource } from './sheet-source';

const DAY_MS = 86_400_000;

/** Assignments that last on days of what lies on a sheet, and those that it speaks of; asked for anew when these are others. */
export function assignmentsHere(store: SheetSource, people: PeopleService): Signal<Assignment[]> {
  const around = computed(() => aroundOf(store), { equal: isSame });
  const asked = toObservable(around).pipe(switchMap((here) => (here ? people.around(here) : of([]))));
  return toSignal(asked, { initialValue: [] as Assignment[] });
}

function aroundOf(store: SheetSource): Around | null {
  const ids = new Set<number>();
  let [from, to] = ['9999-12-31', ''];
  for (const { captured, assignment } of store.settled()) {
    if (assignment) ids.add(assignment.id);
    const day = captured.local.slice(0, 10);
    if (day < from) from = day;
    if (day > to) to = day;
  }
  const own = store.intake()?.assignment?.id;
  if (own) ids.add(own);
  if (!to) return null;
  // A night belongs to the day before it.
  const before = new Date(Date.parse(from) - DAY_MS).toISOString().slice(0, 10);
  return { from: before, to, ids: [...ids].sort((a, b) => a - b) };
}

const isSame = (a: Around | null, b: Around | null) =>
  a === b || (a !== null && b !== null && a.from === b.from && a.to === b.to && a.ids.join() === b.ids.join());
