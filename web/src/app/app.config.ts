import { provideHttpClient, withInterceptors } from '@angular/common/http';
import {
  inject,
  isDevMode,
  provideBrowserGlobalErrorListeners,
  provideEnvironmentInitializer,
  type ApplicationConfig,
} from '@angular/core';
import {
  NavigationEnd,
  provideRouter,
  Router,
  withComponentInputBinding,
  withNavigationErrorHandler,
  withPreloading,
} from '@angular/router';
import { ConfirmationService, MessageService } from 'primeng/api';
import { providePrimeNG } from 'primeng/config';
import { filter } from 'rxjs';
import { checkedAnswers } from '../api/checked-answers';
import { HOUSE_PRESET } from '../theme/preset';
import { routes } from './app.routes';
import { backToSignIn } from './back-to-sign-in';
import { came, comeAgain } from './come-again';
import { PreloadLater } from './preload-later';

/** While we work on it, answers are compared with the contract. */
const loadCheck = () => import('../api/answers').then(({ check }) => check);

export const appConfig: ApplicationConfig = {
  providers: [
    provideBrowserGlobalErrorListeners(),
    provideRouter(
      routes,
      withComponentInputBinding(),
      withPreloading(PreloadLater),
      withNavigationErrorHandler((failed) => void comeAgain(failed, window)),
    ),
    provideEnvironmentInitializer(() => {
      inject(Router)
        .events.pipe(filter((event) => event instanceof NavigationEnd))
        .subscribe(() => came(window));
    }),
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
