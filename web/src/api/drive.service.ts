import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  AdoptFolder,
  FindingsView,
  FolderView,
  FoundTogether,
  FoundView,
  GrowthView,
  MendAnswer,
  MendAsk,
  MendPlan,
  MendsView,
  PathLeads,
  PlaceState,
  PlaceView,
  RebuildOffer,
  SaysAnswer,
  TreeView,
} from '@tally/contract';
import type { FindingKind } from '@tally/core/drive';
import { filter, shareReplay, startWith, switchMap, throttleTime, type Observable } from 'rxjs';
import { LiveService } from './live.service';

/** How often what is looked at is asked for again while a place is being looked through, in milliseconds. */
const AGAIN_MS = 900;

/** What stands on the places, what was found there, adopted and mended. */
@Injectable({ providedIn: 'root' })
export class DriveService {
  private readonly http = inject(HttpClient);
  private readonly live = inject(LiveService);

  /** Says when something of the places changed; once at first. */
  readonly changes: Observable<unknown> = this.live.events.pipe(
    filter(({ type }) => type === 'drive' || type === 'desk' || type === 'again'),
    throttleTime(AGAIN_MS, undefined, { leading: true, trailing: true }),
    startWith(null),
  );
  readonly places: Observable<PlaceView[]> = this.changes.pipe(
    switchMap(() => this.http.get<PlaceView[]>('/api/places')),
    shareReplay({ bufferSize: 1, refCount: true }),
  );

  state(place: string): Observable<PlaceState> {
    return this.http.get<PlaceState>(`/api/places/${place}/state`);
  }

  tree(place: string, folder: string, after = ''): Observable<TreeView> {
    return this.http.get<TreeView>(`/api/places/${place}/tree`, { params: { folder, after } });
  }

  folder(place: string, folder: string, after = ''): Observable<FolderView> {
    return this.http.get<FolderView>(`/api/places/${place}/folder`, { params: { folder, after } });
  }

  /** What was found, by kind and folder. */
  found(place: string, kind: FindingKind | null, limit: number, from: FoundView['next'] = null): Observable<FoundView> {
    const after: Record<string, string> = from ? { afterKind: from.kind, afterFolder: from.folder } : {};
    return this.http.get<FoundView>(`/api/places/${place}/found`, { params: { ...(kind ? { kind } : {}), ...after, limit } });
  }

  /** One by one, what was found of one kind in one folder. */
  findingsIn(place: string, { kind, folder }: Pick<FoundTogether, 'kind' | 'folder'>, after = 0): Observable<FindingsView> {
    return this.http.get<FindingsView>(`/api/places/${place}/findings`, { params: { kind, in: folder, after } });
  }

  /** *This is that drive*: what its root carries is the place. @returns what it was marked as before */
  known(place: string): Observable<{ before: string }> {
    return this.http.post<{ before: string }>(`/api/places/${place}/known`, {});
  }

  /** What a new house could be rebuilt from. */
  rebuildOffer(place: string): Observable<RebuildOffer> {
    return this.http.get<RebuildOffer>('/api/rebuild', { params: { place } });
  }

  rebuild(placeIds: readonly string[]): Observable<{ intakes: number }> {
    return this.http.post<{ intakes: number }>('/api/rebuild', { placeIds });
  }

  check(place: string, how: string, strict: boolean): Observable<unknown> {
    return this.http.post(`/api/places/${place}/check`, { how, strict, names: true });
  }

  stopCheck(id: number): Observable<unknown> {
    return this.http.delete(`/api/checks/${id}`);
  }

  says(place: string, folder: string): Observable<SaysAnswer> {
    return this.http.get<SaysAnswer>(`/api/places/${place}/says`, { params: { folder } });
  }

  adopt(place: string, folders: readonly AdoptFolder[]): Observable<unknown> {
    return this.http.post(`/api/places/${place}/adopt`, { folders });
  }

  stopAdoption(id: number): Observable<unknown> {
    return this.http.delete(`/api/adoptions/${id}`);
  }

  goOn(id: number): Observable<unknown> {
    return this.http.post(`/api/adoptions/${id}/again`, {});
  }

  plan(ask: MendAsk): Observable<MendPlan> {
    return this.http.post<MendPlan>('/api/mends/plan', ask);
  }

  mend(ask: MendAsk, seal: string): Observable<MendAnswer> {
    return this.http.post<MendAnswer>('/api/mends', { ask, seal });
  }

  mends(before: number | null = null): Observable<MendsView> {
    return this.http.get<MendsView>('/api/mends', { params: before === null ? {} : { before } });
  }

  planBack(id: number): Observable<MendPlan> {
    return this.http.get<MendPlan>(`/api/mends/${id}/back`);
  }

  takeBack(id: number): Observable<unknown> {
    return this.http.post(`/api/mends/${id}/back`, {});
  }

  tryAgain(id: number): Observable<unknown> {
    return this.http.post(`/api/mends/${id}/again`, {});
  }

  leadsTo(path: string): Observable<PathLeads> {
    return this.http.get<PathLeads>('/api/leads-to', { params: { path } });
  }

  growth(): Observable<GrowthView> {
    return this.http.get<GrowthView>('/api/growth');
  }
}
