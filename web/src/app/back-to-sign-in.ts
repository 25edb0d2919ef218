import { HttpErrorResponse, type HttpInterceptorFn, type HttpRequest } from '@angular/common/http';
import { inject } from '@angular/core';
import { Router } from '@angular/router';
import { MUSTS } from '@tally/core/rights';
import { catchError, throwError } from 'rxjs';
import { needsOf } from '../api/problem';
import { SessionService } from '../api/session.service';
import { STAYS } from '../api/stays';

/** When a session has ended, whatever was asked for, the next step is to sign in again; whoever says so stays (`STAYS`). */
export const backToSignIn: HttpInterceptorFn = (request, next) => {
  const router = inject(Router);
  const session = inject(SessionService);
  return next(request).pipe(
    catchError((error: unknown) => {
      if (error instanceof HttpErrorResponse && error.status === 401 && !stays(request)) {
        session.forget();
        void router.navigate(['/sign-in'], { queryParams: { to: router.url } });
      }
      if (isMust(needsOf(error)) && router.url !== '/you') {
        session.refresh();
        void router.navigateByUrl('/you');
      }
      return throwError(() => error);
    }),
  );
};

/** Signing in is asked about itself. */
const stays = ({ context, url }: HttpRequest<unknown>) => context.get(STAYS) || /\/session($|\/)/.test(url);

const isMust = (needs: string | null) => (MUSTS as readonly (string | null)[]).includes(needs);
