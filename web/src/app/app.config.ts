import { provideHttpClient, withInterceptors } from '@angular/common/http';
import { isDevMode, provideBrowserGlobalErrorListeners, type ApplicationConfig } from '@angular/core';
import { provideRouter, withComponentInputBinding, withPreloading } from '@angular/router';
import { ConfirmationService, MessageService } from 'primeng/api';
import { providePrimeNG } from 'primeng/config';
import { checkedAnswers } from '../api/checked-answers';
import { HOUSE_PRESET } from '../theme/preset';
import { routes } from './app.routes';
import { backToSignIn } from './back-to-sign-in';
import { PreloadLater } from './preload-later';

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
