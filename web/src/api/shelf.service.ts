import { HttpClient } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  AlikeAnswer,
  BeforeFetching,
  BundleAnswer,
  BundleChange,
  BundleView,
  FigureView,
  FiguresAnswer,
  JudgeAcross,
  MadeOfAnswer,
  ShelfPage,
  SlipBundlesAnswer,
  StandingChange,
  StandingView,
  WhereAnswer,
} from '@tally/contract';
import { shareReplay, switchMap, type Observable } from 'rxjs';
import { LiveService } from './live.service';

/** Items that are meant: these, or everything that answers a question. */
export type Meant = { readonly itemIds: readonly number[] } | { readonly question: string };

/** The order of a list, as the server knows it. */
export interface Listed {
  readonly order: string;
  readonly descending: boolean;
}

export type Figure = FigureView;

/** What is filed: asked for, looked at, put into bundles, fetched, counted. */
@Injectable({ providedIn: 'root' })
export class ShelfService {
  private readonly http = inject(HttpClient);
  private readonly live = inject(LiveService);

  /** Every bundle, the last used first; kept up to date while somebody looks. */
  readonly bundles: Observable<BundleView[]> = this.kept<BundleView[]>('/api/bundles', 'shelf');
  /** Standing questions with what answers them now. */
  readonly standing: Observable<StandingView[]> = this.kept<StandingView[]>('/api/standing', 'shelf', 'desk', 'people');

  page(question: string, from: number, count: number, { order, descending }: Listed): Observable<ShelfPage> {
    return this.http.get<ShelfPage>('/api/shelf', { params: { question, from, count, order, descending } });
  }

  madeOf(question: string): Observable<MadeOfAnswer> {
    return this.http.get<MadeOfAnswer>('/api/shelf/made-of', { params: { question } });
  }

  alike(itemId: number): Observable<AlikeAnswer> {
    return this.http.get<AlikeAnswer>(`/api/shelf/items/${itemId}/alike`);
  }

  where(itemId: number): Observable<WhereAnswer> {
    return this.http.get<WhereAnswer>(`/api/shelf/items/${itemId}/where`);
  }

  judge(change: JudgeAcross): Observable<unknown> {
    return this.http.patch('/api/shelf/judged', change);
  }

  beforeFetching(meant: Meant): Observable<BeforeFetching> {
    return this.http.post<BeforeFetching>('/api/shelf/fetch/before', meant);
  }

  /** Address of a zip with the originals. */
  zipOf(meant: Meant, names: 'house' | 'card'): string {
    const what: Record<string, string> = 'question' in meant ? { question: meant.question } : { items: meant.itemIds.join(',') };
    return `/api/shelf/fetch.zip?${new URLSearchParams({ ...what, names }).toString()}`;
  }

  listAddress(form: 'csv' | 'tsv', question: string, { order, descending }: Listed, columns: readonly string[]): string {
    const asked = { question, order, descending: String(descending), columns: columns.join(',') };
    return `/api/shelf/list.${form}?${new URLSearchParams(asked).toString()}`;
  }

  text(address: string): Observable<string> {
    return this.http.get(address, { responseType: 'text' });
  }

  makeBundle(name: string, parentId: number | null): Observable<BundleView> {
    return this.http.post<BundleView>('/api/bundles', { name, parentId, note: '' });
  }

  changeBundle(id: number, change: BundleChange): Observable<BundleView> {
    return this.http.patch<BundleView>(`/api/bundles/${id}`, change);
  }

  removeBundle(id: number): Observable<unknown> {
    return this.http.delete(`/api/bundles/${id}`);
  }

  putInto(id: number, meant: Meant): Observable<BundleAnswer> {
    return this.http.post<BundleAnswer>(`/api/bundles/${id}/items`, meant);
  }

  takeOut(id: number, itemIds: readonly number[]): Observable<BundleAnswer> {
    return this.http.patch<BundleAnswer>(`/api/bundles/${id}/without`, { itemIds });
  }

  move(id: number, itemIds: readonly number[], before: number | null): Observable<BundleAnswer> {
    return this.http.patch<BundleAnswer>(`/api/bundles/${id}/order`, { itemIds, before });
  }

  bundlesOfSlip(intakeId: number): Observable<SlipBundlesAnswer> {
    return this.http.get<SlipBundlesAnswer>(`/api/intakes/${intakeId}/bundles`);
  }

  sayBundles(intakeId: number, bundleIds: readonly number[]): Observable<SlipBundlesAnswer> {
    return this.http.put<SlipBundlesAnswer>(`/api/intakes/${intakeId}/bundles`, { bundleIds });
  }

  keep(name: string, question: string, tells: boolean): Observable<StandingView> {
    return this.http.post<StandingView>('/api/standing', { name, question, tells });
  }

  changeStanding(id: number, change: StandingChange): Observable<StandingView> {
    return this.http.patch<StandingView>(`/api/standing/${id}`, change);
  }

  seen(id: number): Observable<StandingView> {
    return this.http.post<StandingView>(`/api/standing/${id}/seen`, {});
  }

  forget(id: number): Observable<unknown> {
    return this.http.delete(`/api/standing/${id}`);
  }

  figures(question: string, by: string): Observable<FiguresAnswer> {
    return this.http.get<FiguresAnswer>('/api/figures', { params: { question, by } });
  }

  /** Asked again whenever one of these kinds of events comes. */
  private kept<T>(url: string, ...types: Parameters<LiveService['whenever']>): Observable<T> {
    return this.live.whenever(...types).pipe(
      switchMap(() => this.http.get<T>(url)),
      shareReplay({ bufferSize: 1, refCount: true }),
    );
  }
}
