import { HttpErrorResponse, provideHttpClient, withInterceptors, type HttpInterceptorFn } from '@angular/common/http';
import { inject, isDevMode, provideBrowserGlobalErrorListeners, type ApplicationConfig } from '@angular/core';
import { provideRouter, Router, withComponentInputBinding, withPreloading } from '@angular/router';
import { ConfirmationService, MessageService } from 'primeng/api';
import { providePrimeNG } from 'primeng/config';
import { catchError, throwError } from 'rxjs';
import { MUSTS } from '@tally/core/rights';
import { checkedAnswers } from '../api/checked-answers';
import { needsOf } from '../api/problem';
import { SessionService } from '../api/session.service';
import { HOUSE_PRESET } from '../theme/preset';
import { routes } from './app.routes';
import { PreloadLater } from './preload-later';

/** When a session has ended, whatever was asked for, the next step is to sign in again. */
const backToSignIn: HttpInterceptorFn = (request, next) => {
  const router = inject(Router);
  const session = inject(SessionService);
  return next(request).pipe(
    catchError((error: unknown) => {
      if (error instanceof HttpErrorResponse && error.status === 401 && !/\/session($|\/)/.test(request.url)) {
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

const isMust = (needs: string | null) => (MUSTS as readonly (string | null)[]).includes(needs);

/** While we work on it, answers are compared with the contract. */
const loadCheck = () => import('../api/answers').then(({ check }) => check);

export const appConfig: ApplicationConfig = {
  providers: [
    provideBrowserGlobalErrorListeners(),
    provideRouter(routes, withComponentInputBinding(), withPreloading(PreloadLater)),
    provideHttpClient(withInterceptors(isDevMode() ? [backToSignIn, checkedAnswers(loadCheck)] : [backToSignIn])),
    providePrimeNG({
      theme: {
        preset: HOUSE_PRESET,
        options: { darkModeSelector: '.dark', cssLayer: { name: 'primeng', order: 'reset, primeng, app' } },
      },
      ripple: false,
    }),
    MessageService,
    ConfirmationService,
  ],
};
