import { HttpClient } from '@angular/common/http';
import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { RouterLink } from '@angular/router';
import type { AuthorityView } from '@tally/contract';
import { ButtonModule } from 'primeng/button';
import { catchError, map, of } from 'rxjs';
import { StickMark } from '../stick/stick-mark';

/** How a machine comes to trust this house's certificate. For everybody: whoever needs it cannot sign in yet. */
@Component({
  selector: 'ts-certificate',
  imports: [RouterLink, ButtonModule, StickMark],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <main>
      <ts-stick-mark class="mark" />
      <h1>Trust this house’s certificate</h1>
      @if (fingerprint(); as print) {
        <p>This house made its certificate itself. A machine that installs its authority once trusts it from then on.</p>
        <ol>
          <li>
            <a pButton href="/api/certificate.pem" download>Fetch the authority’s certificate</a>
          </li>
          <li>
            Compare its fingerprint with the one that the media desk tells you by telephone or on paper. If it is another, stop:
            somebody stands between you and the house.
            <p class="mono print">{{ print }}</p>
          </li>
          <li>
            Install it as an authority for web sites:
            <dl>
              @for (system of systems; track system.name) {
                <dt>{{ system.name }}</dt>
                <dd>{{ system.how }}</dd>
              }
            </dl>
          </li>
        </ol>
      } @else if (fingerprint() === null) {
        <p>This house made no certificate of its own: there is nothing to install.</p>
      }
      <p><a routerLink="/">To the desk</a></p>
    </main>
  `,
  styles: `
    main {
      max-width: 720px;
      margin: 0 auto;
      padding: 40px 24px;
      display: grid;
      gap: 16px;
    }
    .mark {
      width: 96px;
    }
    ol {
      display: grid;
      gap: 16px;
      padding-left: 20px;
      list-style: decimal;
    }
    .print {
      margin-top: 8px;
      padding: 10px 12px;
      border: 1px dashed var(--quiet);
      overflow-wrap: anywhere;
    }
    dl {
      display: grid;
      grid-template-columns: 150px minmax(0, 1fr);
      gap: 6px 16px;
      margin: 8px 0 0;
    }
    dt {
      font-weight: 600;
    }
    dd {
      margin: 0;
    }
    @media (max-width: 560px) {
      dl {
        grid-template-columns: 1fr;
      }
    }
  `,
})
export class CertificatePage {
  /** Common practice, no source; menus move. */
  protected readonly systems = [
    { name: 'Windows', how: 'Open the file, Install Certificate, Local Machine, Trusted Root Certification Authorities.' },
    { name: 'macOS', how: 'Open it in Keychain Access, keychain System, then set it to Always Trust.' },
    { name: 'iPhone, iPad', how: 'Open it, install the profile in Settings, then turn it on under Certificate Trust Settings.' },
    { name: 'Android', how: 'Settings, Security, Install a certificate, CA certificate.' },
    {
      name: 'Linux',
      how: 'Copy it to /usr/local/share/ca-certificates/tally.crt and run update-ca-certificates; browsers with lists of their own: their settings, certificates, authorities.',
    },
  ];
  /** undefined: not known yet; null: there is none. */
  protected readonly fingerprint = toSignal(
    inject(HttpClient)
      .get<AuthorityView>('/api/certificate')
      .pipe(
        map(({ fingerprint }) => fingerprint),
        catchError(() => of(null)),
      ),
  );
}
