import { DOCUMENT } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Router, RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';
import { fromEvent } from 'rxjs';
import { KeyGate } from './scanner';
import { LabelScans } from './label-scans';
import { LiveService } from '../api/live.service';
import { SessionService } from '../api/session.service';
import { ThemeService } from '../shared/theme.service';
import { StickMark } from '../stick/stick-mark';

const PLACES_TO_BE = [
  { path: '/desk', name: 'Desk', icon: 'pi-inbox', deed: 'see the desk' },
  { path: '/shelf', name: 'Shelf', icon: 'pi-images', deed: 'look' },
  { path: '/logbook', name: 'Logbook', icon: 'pi-book', deed: 'look' },
  { path: '/people', name: 'People', icon: 'pi-users', deed: 'see the desk' },
  { path: '/drive', name: 'Drive', icon: 'pi-server', deed: 'see the desk' },
  { path: '/rules', name: 'Rules', icon: 'pi-pencil', deed: 'see the desk' },
  { path: '/door', name: 'Door', icon: 'pi-key', deed: 'invite' },
] as const;

/** The spine down the left edge, and the page beside it. */
@Component({
  selector: 'ts-shell',
  imports: [RouterOutlet, RouterLink, RouterLinkActive, StickMark],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <nav aria-label="Places to be">
      <a routerLink="/" class="logo" aria-label="Tally Stick: to the desk"><ts-stick-mark /></a>
      @for (place of places(); track place.path) {
        <a [routerLink]="place.path" routerLinkActive="here" ariaCurrentWhenActive="page"
          ><i class="pi {{ place.icon }}" aria-hidden="true"></i>{{ place.name }}</a
        >
      }
      <div class="foot">
        <span>{{ session()?.station }}</span>
        <button type="button" (click)="theme.toggle()" [attr.aria-label]="theme.dark() ? 'Light theme' : 'Dark theme'">
          <i class="pi" [class.pi-sun]="theme.dark()" [class.pi-moon]="!theme.dark()" aria-hidden="true"></i>
        </button>
        <a routerLink="/you" title="Password, second factor, sessions">{{ session()?.person?.name }}</a>
        <button type="button" (click)="signOut()" title="Sign out" [attr.aria-label]="session()?.person?.name + ': sign out'">
          <i class="pi pi-sign-out" aria-hidden="true"></i>
        </button>
      </div>
    </nav>
    <main><router-outlet /></main>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 76px minmax(0, 1fr);
      min-height: 100vh;
    }
    nav {
      position: sticky;
      top: 0;
      height: 100vh;
      display: flex;
      flex-direction: column;
      gap: 4px;
      padding: 8px 6px;
      background: var(--spine);
    }
    @media (max-height: 560px) {
      nav {
        overflow-y: auto;
      }
      nav .foot span {
        display: none;
      }
    }
    nav > a {
      display: grid;
      justify-items: center;
      gap: 6px;
      padding: 9px 0 8px;
      border-radius: 6px;
      border-left: 3px solid transparent;
      color: var(--spine-text);
      text-decoration: none;
      font-size: 13px;
    }
    nav > a:hover {
      color: #fff;
    }
    nav > a.here {
      background: #24342e;
      border-left-color: #e9efe9;
      color: #fff;
      font-weight: 600;
    }
    nav .pi {
      font-size: 18px;
    }
    .logo {
      padding: 8px 0 10px;
    }
    .foot {
      margin-top: auto;
      display: grid;
      gap: 8px;
      justify-items: center;
      text-align: center;
      font-size: 13px;
      color: var(--spine-text);
    }
    .foot button {
      display: inline-flex;
      gap: 5px;
      align-items: center;
      justify-content: center;
      min-height: 28px;
      min-width: 28px;
      border: 0;
      background: none;
      color: inherit;
      font: inherit;
      cursor: pointer;
    }
    .foot a {
      color: inherit;
      max-width: 64px;
      overflow-wrap: anywhere;
    }
    .foot .pi {
      font-size: 13px;
    }
    nav :focus-visible {
      outline-color: #8fd8c3;
    }
  `,
})
export class Shell {
  private readonly sessions = inject(SessionService);
  private readonly router = inject(Router);
  protected readonly theme = inject(ThemeService);
  protected readonly session = this.sessions.session;
  protected readonly places = computed(() =>
    this.session()?.must ? [] : PLACES_TO_BE.filter(({ deed }) => this.sessions.may(deed)),
  );
  private readonly scans = inject(LabelScans);

  constructor() {
    const gate = new KeyGate((label) => this.scans.scanned(label));
    fromEvent<KeyboardEvent>(inject(DOCUMENT), 'keydown', { capture: true })
      .pipe(takeUntilDestroyed())
      .subscribe((event) => gate.take(event));
    // A card that is to be opened by itself opens at its station only, and takes nobody away from another card.
    inject(LiveService)
      .events.pipe(takeUntilDestroyed())
      .subscribe((event) => {
        const here = event.type === 'open' && event.station === this.session()?.station;
        if (here && this.router.url === '/desk') void this.router.navigate(['/intake', event.intakeId]);
      });
  }

  protected signOut(): void {
    this.sessions.signOut().subscribe(() => void this.router.navigateByUrl('/sign-in'));
  }
}
