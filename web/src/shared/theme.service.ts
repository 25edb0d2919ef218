import { effect, Injectable, signal } from '@angular/core';

const KEY = 'tally-theme';

/** Light or dark: the system's choice until the person makes one. */
@Injectable({ providedIn: 'root' })
export class ThemeService {
  readonly dark = signal(
    localStorage.getItem(KEY) ? localStorage.getItem(KEY) === 'dark' : matchMedia('(prefers-color-scheme: dark)').matches,
  );

  constructor() {
    effect(() => document.documentElement.classList.toggle('dark', this.dark()));
  }

  toggle(): void {
    this.dark.update((dark) => !dark);
    localStorage.setItem(KEY, this.dark() ? 'dark' : 'light');
  }
}
