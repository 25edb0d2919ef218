import { inject } from '@angular/core';
import { Router, type CanActivateFn, type Routes } from '@angular/router';
import type { Deed } from '@tally/core/rights';
import { map } from 'rxjs';
import { SessionService } from '../api/session.service';
import { askFirst } from '../shared/unsaved';

/** The desk is for those who sign in to it; who may only hand in goes to that page. */
const signedIn: CanActivateFn = (_route, state) => {
  const router = inject(Router);
  const sessions = inject(SessionService);
  return sessions.check().pipe(
    map((yes) => {
      if (!yes) return router.createUrlTree(['/sign-in'], { queryParams: { to: state.url } });
      if (sessions.session()?.must && state.url !== '/you') return router.createUrlTree(['/you']);
      if (state.url === '/you' || sessions.may('look')) return true;
      return router.createUrlTree(['/hand-in']);
    }),
  );
};

/** A page that is not for everybody: whoever may not see it looks at the shelf. */
const may =
  (deed: Deed): CanActivateFn =>
  () =>
    inject(SessionService).may(deed) || inject(Router).createUrlTree(['/shelf']);

export const routes: Routes = [
  { path: 'sign-in', title: 'Sign in · Tally Stick', loadComponent: () => import('../shell/sign-in').then((m) => m.SignInPage) },
  {
    path: 'certificate',
    title: 'Certificate · Tally Stick',
    loadComponent: () => import('../shell/certificate-page').then((m) => m.CertificatePage),
  },
  {
    path: 'hand-in',
    title: 'Hand in · Tally Stick',
    loadComponent: () => import('../hand-in/hand-in-page').then((m) => m.HandInPage),
  },
  {
    path: '',
    canActivate: [signedIn],
    loadComponent: () => import('../shell/shell').then((m) => m.Shell),
    children: [
      { path: '', pathMatch: 'full', redirectTo: 'desk' },
      {
        path: 'desk',
        canActivate: [may('see the desk')],
        title: 'Desk · Tally Stick',
        loadComponent: () => import('../desk/desk-page').then((m) => m.DeskPage),
      },
      {
        path: 'intake/:id',
        canActivate: [may('see the desk')],
        title: 'Intake · Tally Stick',
        loadComponent: () => import('../intake/intake-page').then((m) => m.IntakePage),
      },
      {
        path: 'shelf',
        title: 'Shelf · Tally Stick',
        loadComponent: () => import('../shelf/shelf-page').then((m) => m.ShelfPage),
      },
      {
        path: 'bundles',
        title: 'Bundles · Tally Stick',
        loadComponent: () => import('../shelf/bundles-page').then((m) => m.BundlesPage),
      },
      {
        path: 'figures',
        title: 'In figures · Tally Stick',
        loadComponent: () => import('../shelf/figures-page').then((m) => m.FiguresPage),
      },
      {
        path: 'logbook',
        title: 'Logbook · Tally Stick',
        loadComponent: () => import('../logbook/logbook-page').then((m) => m.LogbookPage),
      },
      {
        path: 'logbook/:id',
        title: 'Intake · Tally Stick',
        loadComponent: () => import('../logbook/record-page').then((m) => m.RecordPage),
      },
      {
        path: 'lending',
        canActivate: [may('see the desk')],
        title: 'Lending list · Tally Stick',
        loadComponent: () => import('../lending/lending-page').then((m) => m.LendingPage),
      },
      {
        path: 'people',
        canActivate: [may('see the desk')],
        title: 'People · Tally Stick',
        loadComponent: () => import('../people/people-page').then((m) => m.PeoplePage),
      },
      {
        path: 'people/contributor/:id',
        canActivate: [may('see the desk')],
        title: 'Contributor · Tally Stick',
        loadComponent: () => import('../people/contributor-page').then((m) => m.ContributorPage),
      },
      {
        path: 'people/assignment/:id',
        canActivate: [may('see the desk')],
        title: 'Assignment · Tally Stick',
        loadComponent: () => import('../people/assignment-page').then((m) => m.AssignmentPage),
      },
      {
        path: 'drive',
        canActivate: [may('see the desk')],
        title: 'Drive · Tally Stick',
        loadComponent: () => import('../drive/drive-page').then((m) => m.DrivePage),
      },
      {
        path: 'rules',
        canActivate: [may('see the desk')],
        title: 'Rules · Tally Stick',
        loadComponent: () => import('../rules/rules-page').then((m) => m.RulesPage),
        canDeactivate: [askFirst],
      },
      {
        path: 'door',
        canActivate: [may('invite')],
        title: 'Door · Tally Stick',
        loadComponent: () => import('../door/door-page').then((m) => m.DoorPage),
      },
      { path: 'you', title: 'You · Tally Stick', loadComponent: () => import('../door/own-page').then((m) => m.OwnPage) },
      {
        path: '**',
        title: 'Not there · Tally Stick',
        loadComponent: () => import('../shell/not-there').then((m) => m.NotThere),
      },
    ],
  },
];
