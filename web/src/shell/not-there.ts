import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { RouterLink } from '@angular/router';

/** A page for an address at which there is nothing: what is not there, and what to do. */
@Component({
  selector: 'ts-not-there',
  imports: [RouterLink],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="page">
      <h1>{{ what() }}</h1>
      <p>
        The address may be mistyped, or from another house. Nothing is lost: everything that was received stands in the
        <a routerLink="/logbook">logbook</a>, and what is to be done lies on the <a routerLink="/desk">desk</a>.
      </p>
    </div>
  `,
  styles: `
    .page {
      max-width: 640px;
      padding-top: 64px;
    }
    p {
      margin-top: 12px;
    }
  `,
})
export class NotThere {
  /** The router says nothing for addresses that it does not know. */
  readonly what = input('There is no such page', { transform: (what: string | undefined) => what ?? 'There is no such page' });
}
